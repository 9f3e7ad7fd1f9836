/**
 * How a value is guessed from those before it; only the difference is written. The first three are the fixed linear predictors of lossless audio (RFC 9639,
 * section 9.2.5; Robinson 1994, "SHORTEN"), the others simple exponential smoothing (Brown 1956), which noise around a slow level needs: differences of
 * neighbours would double the noise.
 */
export const predictors = [
  'base',
  'previous',
  'line',
  'smooth 1/2',
  'smooth 1/4',
  'smooth 1/8',
  'smooth 1/16'
] as const;
export type Predictor = (typeof predictors)[number];

const smoothing: Readonly<Partial<Record<Predictor, number>>> = {
  'smooth 1/2': 1 / 2,
  'smooth 1/4': 1 / 4,
  'smooth 1/8': 1 / 8,
  'smooth 1/16': 1 / 16
};

/**
 * The differences between whole numbers and what was predicted. The first value is written apart, its difference is 0.
 *
 * @example residuals(Float64Array.of(5, 7, 9), 'previous') // [0, 2, 2]
 */
export function residuals(wholes: Float64Array, predictor: Predictor): Float64Array {
  const out = new Float64Array(wholes.length);
  if (wholes.length === 0) return out;
  const first = wholes[0] as number;
  const alpha = smoothing[predictor];
  let level = first;
  for (let i = 1; i < wholes.length; i++) {
    const value = wholes[i] as number;
    const previous = wholes[i - 1] as number;
    if (alpha !== undefined) {
      out[i] = value - Math.floor(level + 0.5);
      level += (value - level) * alpha;
    } else if (predictor === 'base') out[i] = value - first;
    else if (predictor === 'previous' || i === 1) out[i] = value - previous;
    else out[i] = value - (2 * previous - (wholes[i - 2] as number));
  }
  return out;
}

/** Turns differences back into the whole numbers, in place. The inverse of {@link residuals}. */
export function undoResiduals(values: Float64Array, first: number, predictor: Predictor): void {
  const count = values.length;
  if (count === 0) return;
  values[0] = first;
  const alpha = smoothing[predictor];
  if (alpha !== undefined) {
    let level = first;
    for (let i = 1; i < count; i++) {
      const value = (values[i] as number) + Math.floor(level + 0.5);
      values[i] = value;
      level += (value - level) * alpha;
    }
  } else if (predictor === 'base') for (let i = 1; i < count; i++) values[i] = (values[i] as number) + first;
  else if (predictor === 'previous') {
    let previous = first;
    for (let i = 1; i < count; i++) values[i] = previous = (values[i] as number) + previous;
  } else {
    let before = first;
    let previous = first;
    for (let i = 1; i < count; i++) {
      const value = (values[i] as number) + (i === 1 ? previous : 2 * previous - before);
      values[i] = value;
      before = previous;
      previous = value;
    }
  }
}
