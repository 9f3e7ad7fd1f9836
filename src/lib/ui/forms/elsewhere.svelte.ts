/** What filling in a form of something that others may change meanwhile needs. */
interface Shared<Value> {
  /** The thing as it is stored now. */
  stored(): Value;
  /** The thing as it stands in the form. */
  mine(): Value;
  /** Puts what is stored into the form. */
  take(stored: Value): void;
}

/**
 * Follows a thing that a form is filled in of. While nothing of it was changed here, the form follows what is stored; once something was, it stays, and {@link Elsewhere.theirs} says that somebody
 * else changed the thing meanwhile, so that the person decides.
 *
 * @example const elsewhere = new Elsewhere({ stored: () => data.definition, mine: () => $form, take: (to) => ($form = to) });
 */
export class Elsewhere<Value> {
  readonly #shared: Shared<Value>;
  /** The stored thing that the form began with, as text. */
  #begin = $state('');
  /** What somebody else stored meanwhile; null when nobody did. */
  readonly theirs = $derived.by((): Value | null => {
    const stored = this.#shared.stored();
    const text = JSON.stringify(stored);
    return text === this.#begin || text === JSON.stringify(this.#shared.mine()) ? null : stored;
  });

  constructor(shared: Shared<Value>) {
    this.#shared = shared;
    this.#begin = JSON.stringify(shared.stored());
    $effect(() => {
      const stored = shared.stored();
      const text = JSON.stringify(stored);
      if (text === this.#begin) return;
      const mine = JSON.stringify(shared.mine());
      if (mine === this.#begin) shared.take(stored);
      if (mine === this.#begin || mine === text) this.#begin = text;
    });
  }

  /** Puts what is stored into the form. */
  takeTheirs(): void {
    const stored = this.#shared.stored();
    this.#begin = JSON.stringify(stored);
    this.#shared.take(stored);
  }

  /** Goes on with what is in the form: saving it replaces what is stored. */
  keepMine(): void {
    this.#begin = JSON.stringify(this.#shared.stored());
  }
}
