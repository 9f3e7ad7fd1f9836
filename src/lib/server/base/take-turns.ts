/**
 * Lets work that belongs together be done one after the other, in the order it came.
 *
 * @example
 * const turns = new TakeTurns();
 * await turns.take('key 1', store); // waits for what was given before under the same name
 */
export class TakeTurns {
  readonly #last = new Map<string, Promise<unknown>>();

  /** @returns what the work gives; its failure is its own and does not stop the next */
  async take<Result>(name: string, work: () => Promise<Result>): Promise<Result> {
    const before = this.#last.get(name) ?? Promise.resolve();
    const mine = before.then(work, work);
    this.#last.set(name, mine);
    try {
      return await mine;
    } finally {
      if (this.#last.get(name) === mine) this.#last.delete(name);
    }
  }
}
