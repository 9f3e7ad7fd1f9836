/** Writes bits, most significant first, into words of 32 bits that are stored little-endian. */
export class BitWriter {
  #words = new Uint32Array(64);
  /** Bits written so far. */
  length = 0;

  /** Writes the `count` lowest bits of a whole number, 0 to 53 bits. */
  write(value: number, count: number): void {
    if (count > 32) {
      this.#write32(Math.floor(value / 4294967296), count - 32);
      this.#write32(value >>> 0, 32);
    } else if (count > 0) this.#write32(value >>> 0, count);
  }

  /** Writes `count` ones, 30 at most, and a zero. */
  writeUnary(count: number): void {
    this.#write32(2 ** (count + 1) - 2, count + 1);
  }

  /** What was written, in whole words. */
  words(): Uint32Array {
    return this.#words.slice(0, Math.ceil(this.length / 32));
  }

  #write32(value: number, count: number): void {
    const index = this.length >>> 5;
    const used = this.length & 31;
    if (index + 2 > this.#words.length) {
      const wider = new Uint32Array(this.#words.length * 2);
      wider.set(this.#words);
      this.#words = wider;
    }
    const aligned = count === 32 ? value : value << (32 - count);
    this.#words[index] = (this.#words[index] as number) | (aligned >>> used);
    if (used + count > 32) this.#words[index + 1] = aligned << (32 - used);
    this.length += count;
  }
}

/** Reads what {@link BitWriter} wrote. */
export class BitReader {
  readonly words: Uint32Array;
  /** Bits read so far. */
  position = 0;

  /** @param words one word more than was written, so that a window may look beyond the end */
  constructor(words: Uint32Array) {
    this.words = words;
  }

  /** The next 32 bits, without moving on; zeros behind the end. */
  peek(): number {
    const index = this.position >>> 5;
    const used = this.position & 31;
    const first = (this.words[index] as number) << used;
    return used === 0 ? first >>> 0 : (first | ((this.words[index + 1] as number) >>> (32 - used))) >>> 0;
  }

  /** The next `count` bits, 0 to 53. */
  read(count: number): number {
    if (count === 0) return 0;
    if (count > 32) {
      const high = this.read(count - 32);
      return high * 4294967296 + this.read(32);
    }
    const value = this.peek() >>> (32 - count);
    this.position += count;
    return value;
  }
}
