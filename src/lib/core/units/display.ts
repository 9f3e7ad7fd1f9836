import { unit } from './unit';

export interface Quantity {
  /** The number as text, with grouping of thousands, or `no data`. */
  readonly number: string;
  /** The unit as text; empty when there is none. */
  readonly unit: string;
}

/**
 * The scale that suits a set of values: the divisor and the unit's text, chosen by the largest magnitude.
 * All values of one axis are shown on the same scale. No finite value gives the unscaled unit.
 *
 * @example displayScale('By', [1536, 12]) // { divisor: 1024, text: 'KiB' }
 */
export function displayScale(code: string, values: Iterable<number>): { divisor: number; text: string } {
  const { text, scales } = unit(code);
  let largest = 0;
  for (const value of values) if (Number.isFinite(value)) largest = Math.max(largest, Math.abs(value));
  const scale = scales.find(({ from }) => largest >= from);
  return scale ? { divisor: scale.from, text: scale.text } : { divisor: 1, text };
}

/**
 * One value as a person reads it, scaled on its own, to three significant digits but never fewer than its whole part. Just below the top of a bounded unit there
 * are as many as tell it from the top. A gap (NaN) is the words `no data`, never a number.
 *
 * @param fraction how many digits after the point, whatever the value
 * @example quantity(1536, 'By') // { number: '1.5', unit: 'KiB' }
 * @example quantity(99.99, '%') // { number: '99.99', unit: '%' }
 */
export function quantity(value: number, code: string, fraction?: number): Quantity {
  if (!Number.isFinite(value)) return { number: 'no data', unit: '' };
  const { divisor, text } = displayScale(code, [value]);
  const number =
    fraction === undefined ? digits(value / divisor, digitsToTop(value, code)) : fixed(value / divisor, fraction);
  return { number, unit: text };
}

/**
 * A limit that a person set, as exact as it was set: never rounded to what it is not, as far as six digits after the point.
 *
 * @example limitText(100.5, '%') // '100.5 %'
 */
export function limitText(value: number, code: string): string {
  if (!Number.isFinite(value)) return 'no limit';
  const { divisor, text } = displayScale(code, [value]);
  const number = grouped(value / divisor, 0, divisor === 1 ? 6 : 3);
  return text === '' ? number : `${number} ${text}`;
}

/** A number with as many digits after the point as are said; thousands grouped. @example fixed(1141.7, 2) // '1,141.70' */
export const fixed = (value: number, fraction: number): string => grouped(value, fraction, fraction);

/**
 * How many digits after the point a column of numbers has, so that they line up: none for whole numbers, else as many as the largest needs for three significant digits.
 *
 * @example columnPlaces([0, 3]) // 0
 * @example columnPlaces([0.25, 0.03]) // 3
 */
export function columnPlaces(values: readonly number[]): number {
  const finite = values.filter(Number.isFinite);
  if (finite.every(Number.isInteger)) return 0;
  const most = Math.max(...finite.map(Math.abs));
  return most >= 1000 ? 0 : most >= 10 ? 1 : most >= 1 ? 2 : 3;
}

/** How numbers are written, by the digits after the point; making one takes as long as writing a hundred numbers, and a board writes thousands. */
const formats = new Map<string, Intl.NumberFormat>();

function grouped(value: number, minimumFractionDigits: number, maximumFractionDigits: number): string {
  const key = `${minimumFractionDigits} ${maximumFractionDigits}`;
  const format = formats.get(key) ?? new Intl.NumberFormat('en', { minimumFractionDigits, maximumFractionDigits });
  formats.set(key, format);
  return format.format(value);
}

/** Digits after the point that tell a value from the top of its unit, of which it is within a tenth; 0 for others. */
function digitsToTop(value: number, code: string): number {
  const { bounds } = unit(code);
  const left = bounds ? (bounds[1] - value) / (bounds[1] - bounds[0]) : 1;
  return bounds && left > 0 && left < 0.1 ? Math.max(0, Math.ceil(-Math.log10(bounds[1] - value))) + 1 : 0;
}

/**
 * {@link quantity} as one text with a space between number and unit.
 *
 * @example quantityText(91.26, '%') // '91.3 %'
 */
export function quantityText(value: number, code: string, fraction?: number): string {
  const { number, unit: text } = quantity(value, code, fraction);
  return text === '' ? number : `${number} ${text}`;
}

/**
 * Three significant digits, but never fewer than the whole part has; thousands grouped.
 *
 * @param least digits after the point that are kept at least
 * @example digits(1141.7) // '1,142'
 */
export function digits(value: number, least = 0): string {
  const whole = Math.floor(Math.log10(Math.abs(value) || 1)) + 1;
  const maximumFractionDigits = Math.min(6, Math.max(least, 3 - whole));
  return grouped(value, 0, maximumFractionDigits);
}
