/** Between news and the reading of them: samples of several accounts arrive one after the other and are read together. */
const pauseMs = 250;

/**
 * Reads again after news; never before the last answer is there, or one that takes longer than news need to come would be broken off for ever.
 *
 * @example const rereading = new Rereading(() => ask(), later); live.on(['samples'], () => rereading.soon())
 */
export class Rereading {
  readonly #read: () => Promise<void>;
  readonly #later: (ms: number, work: () => void) => () => void;
  #answered: Promise<void> = Promise.resolve();
  #prevent: (() => void) | null = null;

  /**
   * @param read asks, and resolves when the answer is there, whatever it is
   * @param later does something later, and gives what prevents it
   */
  constructor(read: () => Promise<void>, later: (ms: number, work: () => void) => () => void) {
    this.#read = read;
    this.#later = later;
  }

  /** Hears what was asked besides, such as other panels: its answer is waited for, too. */
  wait(answered: Promise<void>): void {
    this.#answered = Promise.all([this.#answered, answered]).then(() => undefined);
  }

  /** Something is new. */
  soon(): void {
    this.#prevent ??= this.#later(pauseMs, () => {
      const again = () => {
        if (this.#prevent === null) return; // stopped meanwhile
        this.#prevent = null;
        this.#answered = this.#read();
      };
      void this.#answered.then(again);
    });
  }

  /** Reads no more. */
  stop(): void {
    this.#prevent?.();
    this.#prevent = null;
  }
}
