/** Amounts are whole millionths of a currency, so that sums are exact: up to nine billion of it. */
export type Micros = number & { readonly micros: true };

const perUnit = 1_000_000;
/** Beyond, whole numbers are not exact any more. */
const most = Number.MAX_SAFE_INTEGER;

/** An amount, or a sum of some, that cannot be told exactly any more. */
export class AmountTooLarge extends RangeError {
  override readonly name = 'AmountTooLarge';
}

/**
 * An amount of whole millionths.
 *
 * @throws AmountTooLarge for what is no whole number, or too large to be exact
 * @example micros(1_250_000) // 1.25 of a currency
 */
export function micros(value: number): Micros {
  if (!Number.isInteger(value) || Math.abs(value) > most)
    throw new AmountTooLarge(`micros: expected a whole number of millionths up to ${most}, got ${value}`);
  return (value === 0 ? 0 : value) as Micros;
}

/** Sums are exact while no part of them is too large. @throws AmountTooLarge @example addMicros(micros(1), micros(2)) // 3 */
export const addMicros = (one: Micros, other: Micros): Micros => micros(one + other);

/**
 * An amount as it is written in a file, such as `12.5`, `-0.0000015` or `1.2e-3`: rounded to millionths, halves away from zero.
 *
 * @returns null for what is no decimal number, or too large
 * @example microsFromText('12.5') // 12500000
 */
export function microsFromText(text: string): Micros | null {
  const found = /^([+-]?)(\d*)(?:\.(\d*))?(?:[eE]([+-]?\d{1,3}))?$/.exec(text.trim());
  if (!found) return null;
  const [, sign = '', whole = '', fraction = '', exponent = '0'] = found;
  if (whole === '' && fraction === '') return null;
  const shift = Number(exponent) + 6 - fraction.length;
  const digits = BigInt(`${whole}${fraction}` || '0');
  if (digits === 0n) return micros(0);
  if (shift > 40) return null;
  const scaled = shift >= 0 ? digits * 10n ** BigInt(shift) : halvesUp(digits, 10n ** BigInt(-shift));
  if (scaled > BigInt(most)) return null;
  return micros(sign === '-' ? -Number(scaled) : Number(scaled));
}

/** A whole part of a number, halves rounded up. */
const halvesUp = (value: bigint, by: bigint): bigint => (2n * value + by) / (2n * by);

/** An amount as files have it, without an exponent and without zeros at its end. @example textOfMicros(micros(-1_250_000)) // '-1.25' */
export function textOfMicros(amount: Micros): string {
  const [whole, rest] = [Math.floor(Math.abs(amount) / perUnit), Math.abs(amount) % perUnit];
  const fraction = String(rest).padStart(6, '0').replace(/0+$/, '');
  return `${amount < 0 ? '-' : ''}${whole}${fraction === '' ? '' : `.${fraction}`}`;
}

/** A currency by its code of ISO 4217. @example isCurrency('EUR') // true */
export const isCurrency = (code: string): boolean => currencies.has(code);
const currencies: ReadonlySet<string> = new Set(Intl.supportedValuesOf('currency'));

/**
 * An amount as people read it, with as many digits as its currency has.
 *
 * @param locale of the reader's dates and numbers
 * @example moneyText(micros(1_234_500_000), 'EUR') // '€1,234.50'
 */
export const moneyText = (amount: Micros, currency: string, locale = 'en'): string =>
  new Intl.NumberFormat(locale, { style: 'currency', currency }).format(amount / perUnit);
