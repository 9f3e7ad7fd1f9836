import { deviationOf, quantileIn, quantileOf } from '../../series';
import type { Combine } from '../schema';
import { orGap } from './work';

/**
 * Several series as one, cell by cell, over those that have a value there; a cell where none has is a gap. `count` says how many have. Sums are compensated
 * (Neumaier 1974), percentiles interpolated (Hyndman and Fan 1996, definition 7), deviations those of a sample.
 *
 * @param columns of equal length
 * @param count cells of each
 * cost: O(columns × cells), with a sort per cell for percentiles
 * @example combined([Float64Array.of(1, NaN), Float64Array.of(3, NaN)], 2, 'sum') // [4, NaN]
 */
export function combined(
  columns: readonly Float64Array[],
  count: number,
  statistic: Combine['statistic']
): Float64Array {
  switch (statistic) {
    case 'min':
      return folded(columns, count, (one, other) => (other < one ? other : one));
    case 'max':
      return folded(columns, count, (one, other) => (other > one ? other : one));
    case 'sum':
    case 'avg':
    case 'count':
      return summed(columns, count, statistic);
    case 'stddev':
      return gathered(columns, count, deviationOf);
    case 'median':
    case 'p75':
    case 'p90':
    case 'p95':
    case 'p99':
    case 'p99.9':
      return gathered(columns, count, (values) => quantileIn(values, quantileOf(statistic) as number));
    default:
      throw new RangeError(`combined: unknown statistic ${String(statistic satisfies never)}`);
  }
}

function folded(
  columns: readonly Float64Array[],
  count: number,
  of: (one: number, other: number) => number
): Float64Array {
  const out = new Float64Array(count).fill(NaN);
  for (const column of columns)
    for (let i = 0; i < count; i++) {
      const value = column[i] as number;
      if (Number.isNaN(value)) continue;
      const known = out[i] as number;
      out[i] = Number.isNaN(known) ? value : of(known, value);
    }
  return out;
}

function summed(columns: readonly Float64Array[], count: number, statistic: 'sum' | 'avg' | 'count'): Float64Array {
  const sum = new Float64Array(count);
  const lost = new Float64Array(count);
  const present = new Float64Array(count);
  for (const column of columns)
    for (let i = 0; i < count; i++) {
      const value = column[i] as number;
      if (Number.isNaN(value)) continue;
      const known = sum[i] as number;
      const next = known + value;
      lost[i] =
        (lost[i] as number) + (Math.abs(known) >= Math.abs(value) ? known - next + value : value - next + known);
      sum[i] = next;
      present[i] = (present[i] as number) + 1;
    }
  for (let i = 0; i < count; i++) {
    const number = present[i] as number;
    const whole = (sum[i] as number) + (lost[i] as number);
    sum[i] = number === 0 ? NaN : statistic === 'count' ? number : orGap(statistic === 'avg' ? whole / number : whole);
  }
  return sum;
}

function gathered(columns: readonly Float64Array[], count: number, of: (values: Float64Array) => number): Float64Array {
  const out = new Float64Array(count).fill(NaN);
  const here = new Float64Array(columns.length);
  for (let i = 0; i < count; i++) {
    let present = 0;
    for (const column of columns) {
      const value = column[i] as number;
      if (!Number.isNaN(value)) here[present++] = value;
    }
    if (present > 0) out[i] = of(here.slice(0, present));
  }
  return out;
}
