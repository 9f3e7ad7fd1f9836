import type { Operator } from '../../formula';
import type { Filling } from './functions';

/** A number, or a gap for what is not finite. @example orGap(1 / 0) // NaN */
export const orGap = (value: number): number => (Number.isFinite(value) ? value : NaN);

const operations: Readonly<Record<Operator, (one: number, other: number) => number>> = {
  '+': (one, other) => orGap(one + other),
  '-': (one, other) => orGap(one - other),
  '*': (one, other) => orGap(one * other),
  '/': (one, other) => orGap(one / other),
  '^': (one, other) => orGap(one ** other),
  '=': (one, other) => truth(one === other, one, other),
  '!=': (one, other) => truth(one !== other, one, other),
  '<': (one, other) => truth(one < other, one, other),
  '<=': (one, other) => truth(one <= other, one, other),
  '>': (one, other) => truth(one > other, one, other),
  '>=': (one, other) => truth(one >= other, one, other)
};

/** A comparison with a gap is a gap: nobody knows. */
const truth = (holds: boolean, one: number, other: number): number =>
  Number.isNaN(one) || Number.isNaN(other) ? NaN : holds ? 1 : 0;

/** An operator on two numbers. Division by zero is a gap, not infinity. @example operate('/')(1, 0) // NaN */
export const operate = (operator: Operator) => operations[operator];

/** A function of one number. The logarithm of zero and the root of a negative number are gaps. */
export const ofOne: Readonly<Record<string, (value: number) => number>> = {
  abs: Math.abs,
  sqrt: (value) => orGap(Math.sqrt(value)),
  log: (value) => orGap(Math.log(value)),
  exp: (value) => orGap(Math.exp(value))
};

/** Cell by cell over one column. */
export function each(values: Float64Array, of: (value: number) => number): Float64Array {
  const out = new Float64Array(values.length);
  for (let i = 0; i < values.length; i++) out[i] = of(values[i] as number);
  return out;
}

/** Cell by cell over two columns. */
export function both(one: Float64Array, other: Float64Array, of: (one: number, other: number) => number): Float64Array {
  const out = new Float64Array(one.length);
  for (let i = 0; i < one.length; i++) out[i] = of(one[i] as number, other[i] as number);
  return out;
}

/** Rounded to digits after the point, halves away from zero as people round. @example rounded(-2.5, 0) // -3 */
export function rounded(value: number, digits: number): number {
  const scaled = Math.abs(value) * 10 ** digits;
  return Number.isFinite(scaled) ? (Math.sign(value) * Math.round(scaled)) / 10 ** digits : value; // so large that it has no digits there
}

/**
 * The average of the last cells, the present one among them, over those that have a value.
 *
 * @param cells how many are looked at; the first `cells − 1` values only lead in
 * @returns `values.length − cells + 1` values, gaps where no cell has one
 * cost: O(values): the sum slides, compensated, and begins afresh every `cells` values so that nothing it lost adds up
 * @example movingAverage(Float64Array.of(1, 3, NaN, 5), 2) // [2, 3, 5]
 */
export function movingAverage(values: Float64Array, cells: number): Float64Array {
  const out = new Float64Array(Math.max(0, values.length - cells + 1));
  let sum = 0;
  let lost = 0;
  let present = 0;
  const add = (value: number, sign: 1 | -1): void => {
    if (Number.isNaN(value)) return;
    const signed = sign * value;
    const next = sum + signed;
    lost += Math.abs(sum) >= Math.abs(signed) ? sum - next + signed : signed - next + sum;
    sum = next;
    present += sign;
  };
  for (let i = 0; i < out.length; i++) {
    if (i % cells === 0) {
      sum = lost = present = 0;
      for (let j = i; j < i + cells; j++) add(values[j] as number, 1);
    } else {
      add(values[i - 1] as number, -1);
      add(values[i + cells - 1] as number, 1);
    }
    out[i] = present === 0 ? NaN : orGap((sum + lost) / present);
  }
  return out;
}

/** The running total from the first cell on; a gap stays one and adds nothing. @example cumulated(Float64Array.of(1, NaN, 2)) // [1, NaN, 3] */
export function cumulated(values: Float64Array): Float64Array {
  let sum = 0;
  let lost = 0;
  return each(values, (value) => {
    if (Number.isNaN(value)) return NaN;
    const next = sum + value;
    lost += Math.abs(sum) >= Math.abs(value) ? sum - next + value : value - next + sum;
    sum = next;
    return orGap(sum + lost);
  });
}

/** Each cell less the one before it; the first only leads in. @example differences(Float64Array.of(1, 4, NaN, 5)) // [3, NaN, NaN] */
export function differences(values: Float64Array): Float64Array {
  const out = new Float64Array(Math.max(0, values.length - 1));
  for (let i = 0; i < out.length; i++) out[i] = orGap((values[i + 1] as number) - (values[i] as number));
  return out;
}

/**
 * Fills gaps: with zero, with the last value before, or on the straight line between the values beside them.
 *
 * @param until cells from here on are still being filled by what arrives, and are left alone
 * @example filled(Float64Array.of(1, NaN, 3, NaN), 'linear', 4) // [1, 2, 3, NaN]
 */
export function filled(values: Float64Array, filling: Filling, until: number): Float64Array {
  const out = values.slice();
  const end = Math.max(0, Math.min(until, values.length));
  let last = -1;
  for (let i = 0; i < end; i++) {
    if (!Number.isNaN(values[i])) {
      if (filling === 'linear' && last >= 0)
        for (let j = last + 1; j < i; j++)
          out[j] =
            (values[last] as number) + (((values[i] as number) - (values[last] as number)) * (j - last)) / (i - last);
      last = i;
    } else if (filling === 'zero') out[i] = 0;
    else if (filling === 'last' && last >= 0) out[i] = values[last] as number;
  }
  return out;
}
