import { ByteReader, ByteWriter } from '../logs/segment/bytes';
import { AmountTooLarge } from './money';

/** What a day of an account cost, as columns: the numbers of its items, rising, and their amounts in millionths. */
export interface DaySheet {
  readonly items: Int32Array;
  readonly billed: Float64Array;
  /** The same columns as `billed` where nothing was paid up front. */
  readonly amortised: Float64Array;
}

const version = 1;

/**
 * A day as bytes: gaps between the numbers of items, amounts, and by how much amortised amounts differ, each in as few bytes as it needs.
 *
 * @throws RangeError where the columns differ in length or items do not rise; AmountTooLarge
 * @example decodeDay(encodeDay({ items: Int32Array.of(3), billed: Float64Array.of(500), amortised: Float64Array.of(500) })).billed // [500]
 */
export function encodeDay({ items, billed, amortised }: DaySheet): Uint8Array<ArrayBuffer> {
  const { length } = items;
  if (billed.length !== length || amortised.length !== length)
    throw new RangeError(`encodeDay: columns of ${length}, ${billed.length} and ${amortised.length} amounts`);
  const writer = new ByteWriter(16 + length * 5);
  writer.byte(version);
  writer.varint(length);
  let last = -1;
  for (const item of items) {
    if (item <= last) throw new RangeError(`encodeDay: item ${item} after ${last}`);
    writer.varint(item - last - 1);
    last = item;
  }
  for (const amount of billed) writer.signed(exact(amount));
  const differs = amortised.some((amount, index) => amount !== billed[index]);
  writer.byte(differs ? 1 : 0);
  if (differs) for (let i = 0; i < length; i++) writer.signed(exact((amortised[i] as number) - (billed[i] as number)));
  return writer.bytes();
}

/** Amounts of a day are exact up to this: about four and a half billion of a currency. */
const mostExact = 2 ** 52;

function exact(amount: number): number {
  if (Number.isInteger(amount) && Math.abs(amount) <= mostExact) return amount;
  throw new AmountTooLarge(`encodeDay: an amount of ${amount} millionths is not whole, or beyond ${mostExact}`);
}

/** {@link encodeDay} backwards. @throws RangeError for bytes that are damaged */
export function decodeDay(bytes: Uint8Array): DaySheet {
  const reader = new ByteReader(bytes);
  const found = reader.byte();
  if (found !== version) throw new RangeError(`decodeDay: version ${found}`);
  const length = reader.varint();
  if (length > bytes.length) throw new RangeError(`decodeDay: ${length} entries in ${bytes.length} bytes`);
  const items = new Int32Array(length);
  let last = -1;
  for (let i = 0; i < length; i++) items[i] = last = last + 1 + reader.varint();
  const billed = new Float64Array(length);
  for (let i = 0; i < length; i++) billed[i] = reader.signed();
  if (reader.byte() === 0) return { items, billed, amortised: billed };
  const amortised = new Float64Array(length);
  for (let i = 0; i < length; i++) amortised[i] = (billed[i] as number) + reader.signed();
  return { items, billed, amortised };
}

/** Quantities of a day beside its sheet, NaN where nothing is counted. */
export const encodeQuantities = (values: Float64Array): Uint8Array => {
  const writer = new ByteWriter(values.length * 8);
  for (const value of values) writer.double(value);
  return writer.bytes();
};
/** @throws RangeError where bytes are missing */
export function decodeQuantities(bytes: Uint8Array, length: number): Float64Array {
  const reader = new ByteReader(bytes);
  return Float64Array.from({ length }, () => reader.double());
}
