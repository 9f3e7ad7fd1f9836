/** Numbers that a seed decides. */
export class Random {
  #state: number;

  constructor(seed: number) {
    this.#state = seed >>> 0;
  }

  /** From 0 up to, not with, 1 (the mulberry32 generator). */
  next(): number {
    this.#state = (this.#state + 0x6d2b79f5) >>> 0;
    let t = this.#state;
    t = Math.imul(t ^ (t >>> 15), t | 1);
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
    return ((t ^ (t >>> 14)) >>> 0) / 4_294_967_296;
  }

  /** A whole number from 0 up to, not with, `below`. */
  below(below: number): number {
    return Math.floor(this.next() * below);
  }

  of<Item>(items: readonly Item[]): Item {
    return items[this.below(items.length)] as Item;
  }
}
