import { createHash } from 'node:crypto';

/**
 * A digest of rows, whatever their order: the sum of the first 128 bits of each row's SHA-256. Two databases give the same where they hold the same rows, each as often.
 *
 * @example
 * const digest = new RowsDigest();
 * digest.add('{"id":1}');
 * digest.text() // 32 hexadecimal digits
 */
export class RowsDigest {
  #sum = 0n;
  #rows = 0;

  add(line: string): void {
    const first = createHash('sha256').update(line).digest().subarray(0, 16);
    this.#sum = BigInt.asUintN(128, this.#sum + ((first.readBigUInt64BE(0) << 64n) | first.readBigUInt64BE(8)));
    this.#rows++;
  }

  get rows(): number {
    return this.#rows;
  }

  text(): string {
    return this.#sum.toString(16).padStart(32, '0');
  }
}
