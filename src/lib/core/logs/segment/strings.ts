import { ByteReader, ByteWriter, textOf } from './bytes';

/** How a column of strings is written: what fits it best of these. */
const same = 0;
const listed = 1;
const numbers = 2;
const patterned = 3;
const plain = 4;

/** Different values up to which a column is a list of them and places in it. */
const mostListed = 4096;
/** Digits of a number that is written as one: beyond 15 a double cannot hold it. */
const mostDigits = 15;
/** Runs of digits in a pattern. */
const mostRuns = 12;

const encoder = new TextEncoder();

/**
 * Writes strings of the same kind: all the same, few different ones, numbers, runs of digits between texts that are always the same, or one after the other.
 *
 * @example writeStrings(writer, ['10.0.3.17', '10.0.3.18']) // three texts and four columns of numbers
 */
export function writeStrings(writer: ByteWriter, values: readonly string[]): void {
  const places = new Map<string, number>();
  const most = Math.min(mostListed, values.length >> 1);
  for (const value of values) {
    if (!places.has(value)) places.set(value, places.size);
    if (places.size > most && places.size > 1) break;
  }
  if (places.size <= 1) {
    writer.byte(same);
    writer.text(values[0] ?? '');
    return;
  }
  if (places.size <= most) {
    writer.byte(listed);
    writer.varint(places.size);
    for (const value of places.keys()) writer.text(value);
    for (const value of values) writer.varint(places.get(value) ?? 0);
    return;
  }
  const runs = patternOf(values);
  if (runs === null) writePlain(writer, values);
  else if (runs.texts.length === 2 && runs.texts[0] === '' && runs.texts[1] === '')
    writeNumbers(writer, runs.columns[0] ?? []);
  else {
    writer.byte(patterned);
    writer.varint(runs.texts.length);
    for (const text of runs.texts) writer.text(text);
    for (const column of runs.columns) writeNumbers(writer, column);
  }
}

/** @param length how many were written */
export function readStrings(reader: ByteReader, length: number): string[] {
  const kind = reader.byte();
  switch (kind) {
    case same: {
      return new Array<string>(length).fill(reader.text());
    }
    case listed: {
      const texts = readTexts(reader);
      return Array.from({ length }, () => at(texts, reader.varint()));
    }
    case numbers:
      return readNumbers(reader, length);
    case patterned: {
      const texts = readTexts(reader);
      let values = new Array<string>(length).fill(texts[0] ?? '');
      for (const text of texts.slice(1)) {
        if (reader.byte() !== numbers) throw new RangeError('segment: a run of digits is no column of numbers');
        const column = readNumbers(reader, length);
        values = values.map((value, index) => value + (column[index] ?? '') + text);
      }
      return values;
    }
    case plain: {
      const lengths = Array.from({ length }, () => reader.varint());
      const all = reader.block();
      let from = 0;
      return lengths.map((size) => {
        if (from + size > all.length) throw new RangeError('segment: the bytes end too early');
        return textOf(all.subarray(from, (from += size)));
      });
    }
    default:
      throw new RangeError(`segment: no way ${kind} of writing strings`);
  }
}

const readTexts = (reader: ByteReader): string[] => Array.from({ length: reader.varint() }, () => reader.text());

function at(texts: readonly string[], place: number): string {
  const text = texts[place];
  if (text === undefined) throw new RangeError('segment: a place beyond the list');
  return text;
}

function writePlain(writer: ByteWriter, values: readonly string[]): void {
  writer.byte(plain);
  const texts = values.map((value) => encoder.encode(value));
  for (const { length } of texts) writer.varint(length);
  writer.varint(texts.reduce((sum, { length }) => sum + length, 0));
  for (const text of texts) writer.raw(text);
}

const digits = /\d+/g;

/** Texts between runs of digits, and these as columns, where all values have the same texts; null where they have not. */
function patternOf(values: readonly string[]): { texts: string[]; columns: string[][] } | null {
  const [first = ''] = values;
  const texts = first.split(/\d+/);
  const runs = texts.length - 1;
  if (runs === 0 || runs > mostRuns) return null;
  const columns = Array.from({ length: runs }, () => [] as string[]);
  for (const value of values) {
    const found = value.match(digits);
    if (found?.length !== runs) return null;
    // What is left without the runs must be the texts: built up anew, it is the value.
    let built = texts[0] ?? '';
    for (let index = 0; index < runs; index++) {
      const run = found[index] ?? '';
      if (run.length > mostDigits) return null;
      built += run + (texts[index + 1] ?? '');
    }
    if (built !== value) return null;
    for (let index = 0; index < runs; index++) columns[index]?.push(found[index] ?? '');
  }
  return { texts, columns };
}

/** Writes runs of digits: as numbers, or as differences where these are smaller; with their number of digits where some begin with 0. */
function writeNumbers(writer: ByteWriter, runs: readonly string[]): void {
  writer.byte(numbers);
  const width = runs[0]?.length ?? 0;
  const isFixed = runs.every(({ length }) => length === width);
  const hasZeros = runs.some((run) => run.length > 1 && run.startsWith('0'));
  const values = runs.map(Number);
  let [own, differences] = [0, 0];
  for (let index = 1; index < values.length; index++) {
    own += bits(values[index] ?? 0);
    differences += bits(2 * Math.abs((values[index] ?? 0) - (values[index - 1] ?? 0)));
  }
  const isDelta = differences < own;
  // 1: differences; 2: all of one width; 4: each with its own width.
  writer.byte((isDelta ? 1 : 0) + (hasZeros ? (isFixed ? 2 : 4) : 0));
  if (hasZeros && isFixed) writer.varint(width);
  let before = 0;
  for (const value of values) {
    if (isDelta) writer.signed(value - before);
    else writer.varint(value);
    before = value;
  }
  if (hasZeros && !isFixed) for (const { length } of runs) writer.varint(length);
}

const bits = (value: number): number => (value < 1 ? 0 : Math.log2(value) + 1);

function readNumbers(reader: ByteReader, length: number): string[] {
  const how = reader.byte();
  const width = (how & 2) === 0 ? 0 : reader.varint();
  let before = 0;
  const values = Array.from({ length }, () => {
    before = (how & 1) === 0 ? reader.varint() : before + reader.signed();
    return String(before);
  });
  if (width > 0) return values.map((value) => value.padStart(width, '0'));
  if ((how & 4) === 0) return values;
  return values.map((value) => value.padStart(reader.varint(), '0'));
}
