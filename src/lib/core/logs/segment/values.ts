import { valueText, type LogFields, type LogValue } from '../line';
import { ByteReader, ByteWriter } from './bytes';
import { readStrings, writeStrings } from './strings';

/** What a value is, as it is written. */
const kinds = { null: 0, false: 1, true: 2, string: 3, int: 4, double: 5, bytes: 6, list: 7, map: 8 } as const;

/** Lists and maps within each other that are read; more were not taken when they arrived. */
const mostDepth = 64;

function kindOf(value: LogValue): number {
  if (value === null) return kinds.null;
  if (typeof value === 'string') return kinds.string;
  if (typeof value === 'boolean') return value ? kinds.true : kinds.false;
  if (typeof value === 'bigint') return kinds.int;
  if (typeof value === 'number') return kinds.double;
  return value instanceof Uint8Array ? kinds.bytes : Array.isArray(value) ? kinds.list : kinds.map;
}

/** Writes one value, whatever it is. */
export function writeValue(writer: ByteWriter, value: LogValue): void {
  writer.byte(kindOf(value));
  if (typeof value === 'string') writer.text(value);
  else if (typeof value === 'bigint') writer.int64(value);
  else if (typeof value === 'number') writer.double(value);
  else if (value instanceof Uint8Array) writer.block(value);
  else if (Array.isArray(value)) {
    writer.varint(value.length);
    for (const one of value as readonly LogValue[]) writeValue(writer, one);
  } else if (typeof value === 'object' && value !== null) writeFields(writer, value as LogFields);
}

export function readValue(reader: ByteReader, depth = 0): LogValue {
  if (depth > mostDepth) throw new RangeError('segment: values lie too deep within each other');
  const kind = reader.byte();
  switch (kind) {
    case kinds.null:
      return null;
    case kinds.false:
      return false;
    case kinds.true:
      return true;
    case kinds.string:
      return reader.text();
    case kinds.int:
      return reader.int64();
    case kinds.double:
      return reader.double();
    case kinds.bytes:
      return reader.block().slice();
    case kinds.list:
      return Array.from({ length: reader.varint() }, () => readValue(reader, depth + 1));
    case kinds.map:
      return readFields(reader, depth + 1);
    default:
      throw new RangeError(`segment: no value of kind ${kind}`);
  }
}

export function writeFields(writer: ByteWriter, fields: LogFields): void {
  const entries = Object.entries(fields);
  writer.varint(entries.length);
  for (const [name, value] of entries) {
    writer.text(name);
    writeValue(writer, value);
  }
}

export function readFields(reader: ByteReader, depth = 0): LogFields {
  const entries: [string, LogValue][] = [];
  for (let left = reader.varint(); left > 0; left--) entries.push([reader.text(), readValue(reader, depth)]);
  return Object.fromEntries(entries);
}

/** Writes the values of one field, of those lines that have it: what they are, then those of each kind as a column. */
export function writeColumn(writer: ByteWriter, values: readonly LogValue[]): void {
  const ofKinds = values.map(kindOf);
  const [first = kinds.null] = ofKinds;
  const isOne = ofKinds.every((kind) => kind === first);
  writer.byte(isOne ? first : 255);
  if (!isOne) writer.raw(Uint8Array.from(ofKinds));
  for (const kind of [kinds.string, kinds.int, kinds.double]) {
    const own = isOne && first === kind ? values : values.filter((_value, index) => ofKinds[index] === kind);
    // The shortest text of a number is read back as the same number.
    if (own.length > 0) writeStrings(writer, own.map(numberText));
  }
  for (const value of values) if (value !== null && typeof value === 'object') writeValue(writer, value);
}

const numberText = (value: LogValue): string => (Object.is(value, -0) ? '-0' : valueText(value));

/** @param length how many were written */
export function readColumn(reader: ByteReader, length: number): LogValue[] {
  const first = reader.byte();
  const ofKinds = first === 255 ? reader.raw(length) : new Uint8Array(length).fill(first);
  const texts = new Map<number, string[]>();
  for (const kind of [kinds.string, kinds.int, kinds.double] as const) {
    let own = 0;
    for (const one of ofKinds) if (one === kind) own++;
    if (own > 0) texts.set(kind, readStrings(reader, own).reverse());
  }
  const values: LogValue[] = [];
  for (const kind of ofKinds) {
    const text = texts.get(kind)?.pop();
    if (kind === kinds.string) values.push(text ?? '');
    else if (kind === kinds.int) values.push(wholeNumber(text));
    else if (kind === kinds.double) values.push(Number(text));
    else if (kind === kinds.null) values.push(null);
    else if (kind === kinds.true || kind === kinds.false) values.push(kind === kinds.true);
    else values.push(readValue(reader));
  }
  return values;
}

function wholeNumber(text = ''): bigint {
  if (!/^-?\d+$/.test(text)) throw new RangeError('segment: no whole number');
  return BigInt(text);
}
