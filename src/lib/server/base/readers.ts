/** How long after the last page or query somebody still counts as reading: the next one of a board or of a pointer comes soon, ms of real time. */
const readsOnMs = 250;

/**
 * Knows whether people are waiting for answers, so that work which can wait lets them go first.
 *
 * @example await readers.quiet(500); // at once when nobody reads, else when nobody does any more, or after half a second
 */
export class Readers {
  #reading = 0;
  #lastAt = -Infinity;
  readonly #now: () => number;
  readonly #waiting = new Set<() => void>();

  /** @param now real time that never jumps, ms */
  constructor(now: () => number = () => performance.now()) {
    this.#now = now;
  }

  /** Somebody begins to wait for an answer. @returns to be called once they have it */
  begin(): () => void {
    this.#reading++;
    this.#lastAt = this.#now();
    let isOver = false;
    return () => {
      if (isOver) return;
      isOver = true;
      this.#lastAt = this.#now();
      if (--this.#reading > 0) return;
      const timer = setTimeout(() => this.#tell(), readsOnMs);
      timer.unref();
    };
  }

  get isQuiet(): boolean {
    return this.#reading === 0 && this.#now() - this.#lastAt >= readsOnMs;
  }

  /** Resolves when nobody reads, and at the latest after so many milliseconds: what can wait is not kept from going on for ever. */
  quiet(atMostMs: number): Promise<void> {
    if (this.isQuiet) return Promise.resolve();
    return new Promise((resolve) => {
      const go = (): void => {
        clearTimeout(timer);
        this.#waiting.delete(go);
        resolve();
      };
      const timer = setTimeout(go, atMostMs);
      this.#waiting.add(go);
    });
  }

  #tell(): void {
    if (this.isQuiet) for (const go of [...this.#waiting]) go();
  }
}
