import { ByteReader, ByteWriter } from './bytes';

/** Part 0 has what every search looks at, part 1 what only a line that is shown needs. */
export const headPart = 0;
export const restPart = 1;

/** Bytes of columns that share a part: small ones are compressed better together. */
const partBytes = 12_000;
/** Parts under construction: small columns share one. */
export class Parts {
  readonly #closed: Uint8Array[] = [];
  #open: Uint8Array[] = [];
  #size = 0;

  /** @returns where it is: the number of the part, and which of the columns in it, as one number */
  add(bytes: Uint8Array, isAlone = false): number {
    if (isAlone || this.#size >= partBytes) this.close();
    this.#open.push(bytes);
    this.#size += bytes.length;
    const place = this.#closed.length * 65_536 + this.#open.length - 1;
    if (isAlone) this.close();
    return place;
  }

  close(): void {
    if (this.#open.length === 0) return;
    const writer = new ByteWriter(this.#size + 8);
    for (const bytes of this.#open) writer.block(bytes);
    this.#closed.push(writer.bytes());
    this.#open = [];
    this.#size = 0;
  }

  all(): readonly Uint8Array[] {
    this.close();
    return this.#closed;
  }
}

/** The number of the part in which a column lies. @example partOf(summary.groups[0].part) // 2 */
export const partOf = (place: number): number => Math.floor(place / 65_536);

/** A column out of its part. */
export function columnIn(part: Uint8Array, place: number): Uint8Array {
  const reader = new ByteReader(part);
  for (let before = place % 65_536; before > 0; before--) reader.block();
  return reader.block();
}
