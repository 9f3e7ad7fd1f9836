import type { Grid } from '../time';
import { firstAtOrAfter, type SummaryPoints } from './points';
import type { Statistic } from './statistic';

/**
 * Brings one series onto a grid: every cell becomes one value of the statistic over the points that begin in it.
 *
 * A cell without points is a gap (NaN), also for `sum` and `count`: that nothing arrived is not zero. The average is Σsum ÷ Σcount, never an
 * average of averages; `last` is the average within the last point, since nothing finer is known. Sums are compensated (Neumaier 1974).
 *
 * @param points columns of one series; `length` of them are used, all by default
 * @returns `grid.count` values in the series' own unit (`count`: readings)
 * cost: O(log n + points in the grid + cells)
 * @throws RangeError when the grid's step is not above 0
 * @example
 * alignSeries({ at: [0, 60e3], sum: [10, 30], count: [1, 2], min: [10, 12], max: [10, 18] } as columns,
 *   { start: 0, step: 120e3, count: 1 }, 'avg') // Float64Array [13.333333333333334]
 */
export function alignSeries(
  points: SummaryPoints,
  grid: Grid,
  statistic: Statistic,
  length: number = points.at.length
): Float64Array {
  if (!(grid.step > 0)) throw new RangeError(`alignSeries: step must be above 0 ms, got ${grid.step}`);
  const cells = new Float64Array(grid.count).fill(NaN);
  const { at } = points;
  let index = firstAtOrAfter(at, length, grid.start);
  for (let cell = 0; cell < grid.count && index < length; cell++) {
    const end = grid.start + (cell + 1) * grid.step;
    const first = index;
    while (index < length && (at[index] as number) < end) index++;
    if (index > first) cells[cell] = reduce(points, first, index, statistic);
  }
  return cells;
}

/** The statistic over points [first, end), at least one. */
function reduce(points: SummaryPoints, first: number, end: number, statistic: Statistic): number {
  switch (statistic) {
    case 'avg': {
      const readings = plainSum(points.count, first, end);
      return readings > 0 ? compensatedSum(points.sum, first, end) / readings : NaN;
    }
    case 'sum':
      return compensatedSum(points.sum, first, end);
    case 'count':
      return plainSum(points.count, first, end);
    case 'min':
      return least(points.min, first, end);
    case 'max':
      return greatest(points.max, first, end);
    case 'last': {
      const readings = points.count[end - 1] as number;
      return readings > 0 ? (points.sum[end - 1] as number) / readings : NaN;
    }
    default:
      throw new RangeError(`alignSeries: unknown statistic ${String(statistic satisfies never)}`);
  }
}

function compensatedSum(column: Float64Array, first: number, end: number): number {
  let sum = 0;
  let lost = 0;
  for (let i = first; i < end; i++) {
    const value = column[i] as number;
    const next = sum + value;
    lost += Math.abs(sum) >= Math.abs(value) ? sum - next + value : value - next + sum;
    sum = next;
  }
  return sum + lost;
}

/** Counts are whole and far below 2^53, so that their plain sum is exact. */
function plainSum(column: Float64Array, first: number, end: number): number {
  let sum = 0;
  for (let i = first; i < end; i++) sum += column[i] as number;
  return sum;
}

function least(column: Float64Array, first: number, end: number): number {
  let found = column[first] as number;
  for (let i = first + 1; i < end; i++) if ((column[i] as number) < found) found = column[i] as number;
  return found;
}

function greatest(column: Float64Array, first: number, end: number): number {
  let found = column[first] as number;
  for (let i = first + 1; i < end; i++) if ((column[i] as number) > found) found = column[i] as number;
  return found;
}
