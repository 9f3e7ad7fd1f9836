/** Writes numbers and text one after the other; it grows as needed. */
export class ByteWriter {
  #bytes: Uint8Array;
  #view: DataView;
  #length = 0;

  constructor(capacity = 256) {
    this.#bytes = new Uint8Array(capacity);
    this.#view = new DataView(this.#bytes.buffer);
  }

  get length(): number {
    return this.#length;
  }

  /** What was written so far, as a copy. */
  bytes(): Uint8Array<ArrayBuffer> {
    return this.#bytes.slice(0, this.#length);
  }

  byte(value: number): void {
    this.#room(1);
    this.#bytes[this.#length++] = value;
  }

  /** A whole number from 0 to 2^53 − 1, in as many bytes as it needs: 7 bits in each (LEB128). */
  varint(value: number): void {
    this.#room(8);
    let rest = value;
    while (rest > 0x7f) {
      this.#bytes[this.#length++] = (rest % 0x80) + 0x80;
      rest = rest < 0x80000000 ? rest >>> 7 : Math.floor(rest / 0x80);
    }
    this.#bytes[this.#length++] = rest;
  }

  /** A whole number of either sign, within 2^52: small ones are short. */
  signed(value: number): void {
    this.varint(value < 0 ? -2 * value - 1 : 2 * value);
  }

  /** A whole number of 64 bits with a sign. */
  int64(value: bigint): void {
    this.#room(8);
    this.#view.setBigInt64(this.#length, value, true);
    this.#length += 8;
  }

  double(value: number): void {
    this.#room(8);
    this.#view.setFloat64(this.#length, value, true);
    this.#length += 8;
  }

  raw(bytes: Uint8Array): void {
    this.#room(bytes.length);
    this.#bytes.set(bytes, this.#length);
    this.#length += bytes.length;
  }

  /** Bytes with their number before them. */
  block(bytes: Uint8Array): void {
    this.varint(bytes.length);
    this.raw(bytes);
  }

  /** Text as UTF-8 with the number of its bytes before it; lone surrogates become U+FFFD. */
  text(value: string): void {
    const { length } = value;
    if (length > shortText || !this.#ascii(value)) this.block(encoder.encode(value));
  }

  /** Writes a short text of plain letters at once: most are. @returns false, with nothing written, for one that has others */
  #ascii(value: string): boolean {
    const { length } = value;
    this.#room(length + 2);
    const begin = this.#length;
    this.varint(length);
    let at = this.#length;
    for (let index = 0; index < length; index++) {
      const code = value.charCodeAt(index);
      if (code > 0x7f) {
        this.#length = begin;
        return false;
      }
      this.#bytes[at++] = code;
    }
    this.#length = at;
    return true;
  }

  #room(more: number): void {
    if (this.#length + more <= this.#bytes.length) return;
    const grown = new Uint8Array(Math.max(this.#bytes.length * 2, this.#length + more));
    grown.set(this.#bytes);
    this.#bytes = grown;
    this.#view = new DataView(grown.buffer);
  }
}

const encoder = new TextEncoder();
const decoder = new TextDecoder('utf-8', { ignoreBOM: true });
/** Characters up to which a text is written and read one by one, which is faster than what is made for long ones. */
const shortText = 128;

/** UTF-8 as text. @example textOf(Uint8Array.of(111, 107)) // 'ok' */
export function textOf(bytes: Uint8Array): string {
  if (bytes.length > shortText) return decoder.decode(bytes);
  for (const byte of bytes) if (byte > 0x7f) return decoder.decode(bytes);
  return String.fromCharCode.apply(null, bytes as unknown as number[]);
}

/** Reads what {@link ByteWriter} wrote. Every method throws a RangeError where the bytes end too early. */
export class ByteReader {
  readonly #bytes: Uint8Array;
  readonly #view: DataView;
  #at = 0;

  constructor(bytes: Uint8Array) {
    this.#bytes = bytes;
    this.#view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  }

  get isAtEnd(): boolean {
    return this.#at >= this.#bytes.length;
  }

  byte(): number {
    const value = this.#bytes[this.#at++];
    if (value === undefined) throw new RangeError('segment: the bytes end too early');
    return value;
  }

  /** Passes over so many numbers, whichever kind. */
  skipVarints(count: number): void {
    const bytes = this.#bytes;
    let at = this.#at;
    for (let left = count; left > 0; at++) {
      if (at >= bytes.length) throw new RangeError('segment: the bytes end too early');
      if ((bytes[at] as number) < 0x80) left--;
    }
    this.#at = at;
  }

  varint(): number {
    const bytes = this.#bytes;
    let byte = bytes[this.#at++];
    if (byte === undefined) throw new RangeError('segment: the bytes end too early');
    if (byte < 0x80) return byte;
    let value = byte - 0x80;
    let scale = 0x80;
    for (;;) {
      byte = bytes[this.#at++];
      if (byte === undefined) throw new RangeError('segment: the bytes end too early');
      if (byte < 0x80) break;
      value += (byte - 0x80) * scale;
      scale *= 0x80;
      if (scale > Number.MAX_SAFE_INTEGER) throw new RangeError('segment: a number has too many bytes');
    }
    return value + byte * scale;
  }

  signed(): number {
    const value = this.varint();
    return value % 2 === 1 ? -(value + 1) / 2 : value / 2;
  }

  int64(): bigint {
    const at = this.#step(8);
    return this.#view.getBigInt64(at, true);
  }

  double(): number {
    const at = this.#step(8);
    return this.#view.getFloat64(at, true);
  }

  raw(length: number): Uint8Array {
    const at = this.#step(length);
    return this.#bytes.subarray(at, at + length);
  }

  block(): Uint8Array {
    return this.raw(this.varint());
  }

  text(): string {
    return textOf(this.block());
  }

  #step(length: number): number {
    const at = this.#at;
    if (length < 0 || at + length > this.#bytes.length) throw new RangeError('segment: the bytes end too early');
    this.#at = at + length;
    return at;
  }
}
