import type { Instant } from '../time';
import type { LevelMemory, SeriesMemory, State } from './judge';

/** What is remembered of one series of an alarm between judgements. */
export interface RememberedSeries {
  /** Every cell that ends by here has been judged. */
  readonly judgedUntil: Instant;
  /** Start of its newest judged cell with a value; null when none had one. */
  readonly lastValueAt: Instant | null;
  /** It is to begin with the windows before its next cell, as after a change of its definition. */
  readonly begins: boolean;
  readonly memory: SeriesMemory;
}

const states: readonly State[] = ['clear', 'raised', 'indeterminate'];
const formatVersion = 1;
/** Beside the number of levels. */
const beginsFlag = 128;
/** Bytes of a text that is read and written letter by letter when it has plain ones alone. */
const shortText = 24;
/** No more is accepted of what is read: levels of a series, cells of a level. */
const most = { levels: 4, cells: 1440, series: 1_000_000, keyBytes: 65_535 };

/**
 * The memory of an alarm's series as bytes. Up to 64 cells of the same code that follow each other take one byte; a series that is quiet takes about 40 bytes, whatever its window.
 *
 * @example decodeMemory(encodeMemory(new Map([['7', remembered]]))).get('7') // what was encoded
 */
export function encodeMemory(series: ReadonlyMap<string, RememberedSeries>): Uint8Array {
  const out = new Writer();
  out.byte(formatVersion);
  out.integer(series.size);
  for (const [key, { judgedUntil, lastValueAt, begins, memory }] of series) {
    out.text(key);
    out.number(judgedUntil);
    out.number(lastValueAt ?? NaN);
    out.byte(memory.levels.length | (begins ? beginsFlag : 0));
    for (const { state, held, recent, peak } of memory.levels) {
      out.byte(states.indexOf(state) | (held ? 4 : 0) | (peak ? 8 : 0));
      if (peak) {
        out.number(peak.value);
        out.number(peak.beyond);
      }
      out.runs(recent);
    }
  }
  return out.bytes();
}

/** What was stored of an alarm's series cannot be read. */
export class MemoryDamaged extends RangeError {}

/** Reads what {@link encodeMemory} wrote. @throws MemoryDamaged when it is cut off, or was not written by it */
export function decodeMemory(bytes: Uint8Array): Map<string, RememberedSeries> {
  const read = new Reader(bytes);
  const version = read.byte();
  if (version !== formatVersion) throw new MemoryDamaged(`decodeMemory: version ${version} is not known`);
  const count = read.integer(most.series);
  const series = new Map<string, RememberedSeries>();
  for (let i = 0; i < count; i++) {
    const key = read.text();
    const judgedUntil = read.number() as Instant;
    const last = read.number();
    const levels: LevelMemory[] = [];
    const counted = read.byte();
    const levelCount = counted & ~beginsFlag;
    if (levelCount > most.levels) throw new MemoryDamaged(`decodeMemory: ${levelCount} levels`);
    for (let j = 0; j < levelCount; j++) {
      const flags = read.byte();
      const state = states[flags & 3];
      if (state === undefined) throw new MemoryDamaged(`decodeMemory: no state ${flags & 3}`);
      const peak = flags & 8 ? { value: read.number(), beyond: read.number() } : null;
      levels.push({ state, held: (flags & 4) !== 0, peak, recent: read.runs() });
    }
    const lastValueAt = Number.isNaN(last) ? null : (last as Instant);
    series.set(key, { judgedUntil, lastValueAt, begins: (counted & beginsFlag) !== 0, memory: { levels } });
  }
  return series;
}

class Writer {
  #bytes = new Uint8Array(1024);
  #view = new DataView(this.#bytes.buffer);
  #length = 0;
  readonly #encoder = new TextEncoder();

  byte(value: number): void {
    this.#room(1);
    this.#bytes[this.#length++] = value;
  }

  integer(value: number): void {
    this.#room(4);
    this.#view.setUint32(this.#length, value);
    this.#length += 4;
  }

  number(value: number): void {
    this.#room(8);
    this.#view.setFloat64(this.#length, value);
    this.#length += 8;
  }

  text(text: string): void {
    if (text.length <= shortText && this.#shortText(text)) return;
    const encoded = this.#encoder.encode(text);
    if (encoded.length > most.keyBytes) throw new RangeError(`encodeMemory: a key of ${encoded.length} bytes`);
    this.integer(encoded.length);
    this.#room(encoded.length);
    this.#bytes.set(encoded, this.#length);
    this.#length += encoded.length;
  }

  /** Keys are mostly numbers: an encoder takes longer than they do. @returns whether it could be written so */
  #shortText(text: string): boolean {
    this.#room(4 + text.length);
    const start = this.#length + 4;
    for (let i = 0; i < text.length; i++) {
      const code = text.charCodeAt(i);
      if (code > 127) return false;
      this.#bytes[start + i] = code;
    }
    this.integer(text.length);
    this.#length += text.length;
    return true;
  }

  /** A byte a run of up to 64 cells: two bits for the code, six for the length less one. */
  runs(codes: Uint8Array): void {
    this.#room(4 + codes.length);
    this.integer(codes.length);
    const bytes = this.#bytes;
    let place = this.#length;
    for (let i = 0; i < codes.length;) {
      const code = codes[i] as number;
      const most = Math.min(codes.length, i + 64);
      let end = i + 1;
      while (end < most && codes[end] === code) end++;
      bytes[place++] = (code << 6) | (end - i - 1);
      i = end;
    }
    this.#length = place;
  }

  bytes(): Uint8Array {
    return this.#bytes.slice(0, this.#length);
  }

  #room(more: number): void {
    if (this.#length + more <= this.#bytes.length) return;
    const grown = new Uint8Array(Math.max(this.#bytes.length * 2, this.#length + more));
    grown.set(this.#bytes);
    this.#bytes = grown;
    this.#view = new DataView(grown.buffer);
  }
}

class Reader {
  readonly #bytes: Uint8Array;
  readonly #view: DataView;
  #place = 0;
  readonly #decoder = new TextDecoder('utf-8', { fatal: true });

  constructor(bytes: Uint8Array) {
    this.#bytes = bytes;
    this.#view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  }

  byte(): number {
    return this.#view.getUint8(this.#advance(1));
  }

  integer(atMost: number): number {
    const value = this.#view.getUint32(this.#advance(4));
    if (value > atMost) throw new MemoryDamaged(`decodeMemory: ${value} is above ${atMost}`);
    return value;
  }

  number(): number {
    return this.#view.getFloat64(this.#advance(8));
  }

  text(): string {
    const length = this.integer(most.keyBytes);
    const start = this.#advance(length);
    if (length <= shortText) {
      let text = '';
      let end = start;
      for (; end < start + length; end++) {
        const code = this.#bytes[end] as number;
        if (code > 127) break;
        text += String.fromCharCode(code);
      }
      if (end === start + length) return text;
    }
    try {
      return this.#decoder.decode(this.#bytes.subarray(start, start + length));
    } catch (error) {
      throw new MemoryDamaged('decodeMemory: a key is no text', { cause: error });
    }
  }

  runs(): Uint8Array {
    const codes = new Uint8Array(this.integer(most.cells));
    for (let i = 0; i < codes.length;) {
      const run = this.byte();
      const end = i + (run & 63) + 1;
      if (end > codes.length) throw new MemoryDamaged('decodeMemory: a run reaches beyond its cells');
      codes.fill(run >> 6, i, end);
      i = end;
    }
    return codes;
  }

  #advance(length: number): number {
    const start = this.#place;
    if (start + length > this.#bytes.length) throw new MemoryDamaged('decodeMemory: the bytes are cut off');
    this.#place += length;
    return start;
  }
}
