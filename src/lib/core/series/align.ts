import { cellAt, cellStart, gridEnd, type Grid } from '../time';
import { firstAtOrAfter, type SummaryPoints } from './points';
import { quantileOf, statisticName, type Statistic } from './statistic';

/**
 * Brings one series onto a grid: every cell becomes one value of the statistic over the points that begin in it.
 *
 * A cell without points is a gap (NaN), also for `sum` and `count`: that nothing arrived is not zero. The average is Σsum ÷ Σcount, never an
 * average of averages; `last` is the average within the last point, since nothing finer is known. Sums are compensated (Neumaier 1974). Percentiles and the
 * standard deviation are of the readings themselves, never of what was summed up before.
 *
 * @param points columns of one series; `length` of them are used, all by default
 * @returns `grid.count` values in the series' own unit (`count`: readings)
 * cost: O(log n + points in the grid + cells)
 * @throws RangeError when the grid's step is not above 0, or a statistic needs readings that points do not have ({@link needsReadings})
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
    const end = cellStart(grid, cell + 1);
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
    case 'stddev':
      return deviationOf(readingsOf(points, first, end, statistic));
    case 'median':
    case 'p75':
    case 'p90':
    case 'p95':
    case 'p99':
    case 'p99.9':
      return quantileIn(readingsOf(points, first, end, statistic), quantileOf(statistic) as number);
    case 'rate':
    case 'increase':
      throw new RangeError(`alignSeries: ${statistic} is calculated by growSeries`);
    default:
      throw new RangeError(`alignSeries: unknown statistic ${String(statistic satisfies never)}`);
  }
}

/** Statistics of several series that are computed from all their samples together, not of one figure for each. */
export type PooledStatistic = 'avg' | 'median' | 'p75' | 'p90' | 'p95' | 'p99' | 'p99.9' | 'stddev';

/**
 * Brings several series onto a grid as if they were one: each cell becomes the statistic over the samples of all of them. So an average is Σsum ÷ Σcount over
 * everything and a percentile is of every reading, never a figure made of figures. A cell in which none has a sample is a gap.
 *
 * @param parts columns of each series
 * @throws RangeError as {@link alignSeries}
 * cost: O(samples + cells); percentiles sort the samples of each cell
 * @example groupSeries([oneReading(1), threeReadings(5)], grid, 'avg') // (1 + 15) / 4 = 4 in the first cell
 */
export function groupSeries(parts: readonly SummaryPoints[], grid: Grid, statistic: PooledStatistic): Float64Array {
  if (!(grid.step > 0)) throw new RangeError(`groupSeries: step must be above 0 ms, got ${grid.step}`);
  return statistic === 'avg' ? pooledAverage(parts, grid) : ofReadings(parts, grid, statistic);
}

/** Goes over the points of a series that lie in a grid, with the cell of each. */
function eachInGrid({ at }: SummaryPoints, grid: Grid, visit: (index: number, cell: number) => void): void {
  if (grid.count === 0) return;
  const end = gridEnd(grid);
  let cell = 0;
  let cellEnd: number = cellStart(grid, 1);
  for (let i = firstAtOrAfter(at, at.length, grid.start); i < at.length; i++) {
    const when = at[i] as number;
    if (when >= end) return;
    while (when >= cellEnd) {
      cell++;
      cellEnd = cellStart(grid, cell + 1);
    }
    visit(i, cell);
  }
}

/**
 * Written out rather than by {@link eachInGrid}: a board adds up millions of points here. What each addition loses is found without a branch (Knuth 1969, TwoSum), since
 * which of two numbers is larger cannot be foreseen.
 */
function pooledAverage(parts: readonly SummaryPoints[], grid: Grid): Float64Array {
  const { start, step, count: cells, calendar } = grid;
  const sums = new Float64Array(cells);
  const lost = new Float64Array(cells);
  const readings = new Float64Array(cells);
  const end = gridEnd(grid);
  for (const { at, sum, count } of parts) {
    const length = firstAtOrAfter(at, at.length, end);
    let i = firstAtOrAfter(at, length, start);
    while (i < length) {
      // The next cell that has a point, then all points in it.
      const when = at[i] as number;
      const cell = calendar ? cellAt(grid, when) : Math.floor((when - start) / step);
      const cellEnd = cellStart(grid, cell + 1);
      let total = sums[cell] as number;
      let missed = lost[cell] as number;
      let number = readings[cell] as number;
      do {
        const value = sum[i] as number;
        const next = total + value;
        const back = next - total;
        missed += total - (next - back) + (value - back);
        total = next;
        number += count[i] as number;
        i++;
      } while (i < length && (at[i] as number) < cellEnd);
      sums[cell] = total;
      lost[cell] = missed;
      readings[cell] = number;
    }
  }
  for (let cell = 0; cell < cells; cell++) {
    const count = readings[cell] as number;
    sums[cell] = count > 0 ? ((sums[cell] as number) + (lost[cell] as number)) / count : NaN;
  }
  return sums;
}

function ofReadings(
  parts: readonly SummaryPoints[],
  grid: Grid,
  statistic: Exclude<PooledStatistic, 'avg'>
): Float64Array {
  const begins = new Int32Array(grid.count + 1);
  for (const part of parts)
    eachInGrid(part, grid, (i, cell) => {
      if (part.count[i] !== 1)
        throw new RangeError(
          `groupSeries: a point that stands for ${part.count[i]} readings has no ${statisticName(statistic)}`
        );
      begins[cell + 1] = (begins[cell + 1] as number) + 1;
    });
  for (let cell = 0; cell < grid.count; cell++)
    begins[cell + 1] = (begins[cell + 1] as number) + (begins[cell] as number);
  const next = begins.slice();
  const readings = new Float64Array(begins[grid.count] as number);
  for (const part of parts)
    eachInGrid(part, grid, (i, cell) => {
      const place = next[cell] as number;
      readings[place] = part.sum[i] as number;
      next[cell] = place + 1;
    });
  return Float64Array.from({ length: grid.count }, (_, cell) => {
    const here = readings.subarray(begins[cell], begins[cell + 1]);
    if (here.length === 0) return NaN;
    return statistic === 'stddev' ? deviationOf(here) : quantileIn(here, quantileOf(statistic) as number);
  });
}

/** The readings of points [first, end), as a copy. @throws RangeError when a point stands for several */
function readingsOf(points: SummaryPoints, first: number, end: number, statistic: Statistic): Float64Array {
  for (let i = first; i < end; i++)
    if (points.count[i] !== 1)
      throw new RangeError(
        `alignSeries: a point that stands for ${points.count[i]} readings has no ${statisticName(statistic)}`
      );
  return points.sum.slice(first, end);
}

/**
 * The value below which a share of some readings lies, interpolated between the two nearest (Hyndman and Fan 1996, definition 7). Sorts them in place.
 *
 * @param readings at least one, no gaps
 * @example quantileIn(Float64Array.of(3, 1, 2, 4), 0.5) // 2.5
 */
export function quantileIn(readings: Float64Array, share: number): number {
  readings.sort();
  const place = share * (readings.length - 1);
  const below = Math.floor(place);
  const low = readings[below] as number;
  const high = readings[Math.min(below + 1, readings.length - 1)] as number;
  return low === high ? low : low + (high - low) * (place - below);
}

/**
 * The sample standard deviation, by the corrected two-pass algorithm (Chan, Golub and LeVeque 1983, equation 1.7); a gap for one reading.
 *
 * @example deviationOf(Float64Array.of(1, 2, 3)) // 1
 */
export function deviationOf(readings: Float64Array): number {
  const count = readings.length;
  if (count < 2) return NaN;
  const mean = compensatedSum(readings, 0, count) / count;
  let squares = 0;
  let rest = 0;
  for (const value of readings) {
    const apart = value - mean;
    squares += apart * apart;
    rest += apart;
  }
  return Math.sqrt(Math.max(0, squares - (rest * rest) / count) / (count - 1));
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
