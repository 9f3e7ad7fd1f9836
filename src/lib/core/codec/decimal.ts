/** The largest whole number that predictions are made of: their differences must stay exact in a double. */
const largest = 2 ** 49;
/** Decimal places that are tried. */
const mostPlaces = 9;

export interface Decimals {
  /** Decimal places. */
  readonly places: number;
  /** value × 10^places of each value, whole. */
  readonly wholes: Float64Array;
}

/**
 * Values as whole numbers of their last decimal place, when every one of them is such a decimal exactly: `whole / 10^places` gives each back bit
 * by bit. Agents report rounded decimals, so that this is the usual case. Null when it is not, also for negative zero, NaN and infinities.
 *
 * The method is ALP's decimal encoding (Afroozeh, Kuffó and Boncz 2023, "ALP: Adaptive Lossless floating-Point Compression", section 3.1), without its
 * exceptions: a column that has any is written by {@link encodeXor}.
 *
 * @example decimalsOf(Float64Array.of(0.5, 12.25)) // { places: 2, wholes: [50, 1225] }
 */
export function decimalsOf(values: Float64Array): Decimals | null {
  for (let places = firstPlaces(values); places <= mostPlaces; places++) {
    const wholes = wholesAt(values, places);
    if (wholes !== null) return { places, wholes };
  }
  return null;
}

/** The fewest places that could do, judged by a few values: saves trying them all on whole columns. */
function firstPlaces(values: Float64Array): number {
  let places = 0;
  for (let i = 0; i < values.length && i < 8; i++)
    while (places < mostPlaces && wholeAt(values[i] as number, 10 ** places) === null) places++;
  return places;
}

function wholesAt(values: Float64Array, places: number): Float64Array | null {
  const wholes = new Float64Array(values.length);
  const scale = 10 ** places;
  for (let i = 0; i < values.length; i++) {
    const whole = wholeAt(values[i] as number, scale);
    if (whole === null) return null;
    wholes[i] = whole;
  }
  return wholes;
}

function wholeAt(value: number, scale: number): number | null {
  const whole = Math.round(value * scale);
  return Math.abs(whole) <= largest && whole / scale === value && !Object.is(value, -0) ? whole + 0 : null;
}
