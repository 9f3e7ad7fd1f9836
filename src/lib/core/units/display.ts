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
 * One value as a person reads it, scaled on its own, to three significant digits but never fewer than its whole part.
 * A gap (NaN) is the words `no data`, never a number.
 *
 * @example quantity(1536, 'By') // { number: '1.5', unit: 'KiB' }
 */
export function quantity(value: number, code: string): Quantity {
  if (!Number.isFinite(value)) return { number: 'no data', unit: '' };
  const { divisor, text } = displayScale(code, [value]);
  return { number: digits(value / divisor), unit: text };
}

/**
 * {@link quantity} as one text with a space between number and unit.
 *
 * @example quantityText(91.26, '%') // '91.3 %'
 */
export function quantityText(value: number, code: string): string {
  const { number, unit: text } = quantity(value, code);
  return text === '' ? number : `${number} ${text}`;
}

/**
 * Three significant digits, but never fewer than the whole part has; thousands grouped.
 *
 * @example digits(1141.7) // '1,142'
 */
export function digits(value: number): string {
  const whole = Math.floor(Math.log10(Math.abs(value) || 1)) + 1;
  const maximumFractionDigits = Math.min(6, Math.max(0, 3 - whole));
  return new Intl.NumberFormat('en', { maximumFractionDigits }).format(value);
}
