/** What one receiver was sent, newest first; the oldest are dropped. */
export class Received<Item> {
  #items: readonly Item[] = [];

  constructor(private readonly most = 500) {}

  get all(): readonly Item[] {
    return this.#items;
  }

  add(item: Item): void {
    this.#items = [item, ...this.#items].slice(0, this.most);
  }
}
