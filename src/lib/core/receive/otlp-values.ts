/** The fields of a message, by name. */
export type Fields = ReadonlyMap<string, unknown>;

/** The fields of an object; null of anything else. A map, so that no name reaches what objects inherit. */
export function fieldsOf(value: unknown): Fields | null {
  if (typeof value !== 'object' || value === null || Array.isArray(value)) return null;
  return new Map(Object.entries(value));
}

/** What a field holds; null for what is not there, which proto3 JSON may write as null. */
export const given = (message: Fields, field: string): unknown => message.get(field) ?? null;

/** A repeated field: nothing and null are an empty list (proto3 JSON). Null of anything else. */
export const listFrom = (value: unknown): readonly unknown[] | null =>
  value === undefined || value === null ? [] : Array.isArray(value) ? (value as unknown[]) : null;

export const textFrom = (value: unknown): string | null => (typeof value === 'string' ? value : null);

/**
 * A whole number of 64 bits: proto3 JSON writes it as text, and takes a number as well.
 *
 * @example integerFrom('9007199254740993') // 9007199254740993n
 */
export function integerFrom(value: unknown): bigint | null {
  if (typeof value === 'number') return Number.isInteger(value) && Math.abs(value) < 2 ** 64 ? BigInt(value) : null;
  return typeof value === 'string' && /^-?\d{1,20}$/.test(value) ? BigInt(value) : null;
}

/**
 * A double: proto3 JSON takes numbers, text of one, and the words for what is none.
 *
 * @example doubleFrom('1.5') // 1.5
 */
export function doubleFrom(value: unknown): number | null {
  if (typeof value === 'number') return value;
  if (typeof value !== 'string') return null;
  if (value === 'NaN' || value === 'Infinity' || value === '-Infinity') return Number(value);
  return /^[+-]?(\d+\.?\d*|\.\d+)([eE][+-]?\d+)?$/.test(value) ? Number(value) : null;
}

/** Whole milliseconds of nanoseconds, rounded down. @example millisecondsOf(1_999_999n) // 1 */
export const millisecondsOf = (nanoseconds: bigint): number => Number(nanoseconds / 1_000_000n);
