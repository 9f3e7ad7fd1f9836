import { cellAt, cellStart, type Grid } from '../time';
import type { SummaryPoints } from './points';

/** Kinds that say growth: changes since the last sample, and running totals. */
export type GrowthKind = 'delta' | 'cumulative';

/**
 * Whether the instant of a sample is the start of the interval that it stands for, as providers give it, or its end, as programs do that send what happened since
 * they sent last. For running totals there is no difference.
 */
export type Stamp = 'start' | 'end';

/** An interval longer than so many sampling intervals is a gap between two samples. */
export const longestOrdinary = 3;

/** A change that is stamped at its end began with the one before it when that lies not further back than so many sampling intervals. */
const nearlyOrdinary = 1.5;

/**
 * What one series grew by in each cell of a grid, or how fast per second.
 *
 * Each difference between two samples of a running total, and each change of a delta, is spread evenly over the interval it happened in. A total that drops
 * began again from zero. Where two samples of a total lie further apart than {@link longestOrdinary} sampling intervals is a gap: what grew there counts when the gap
 * lies in one cell whole, else in none, since nobody knows in which it grew.
 * A rate is the growth divided by the part of the cell that intervals cover, so that a cell half without data is not half as fast. Sums are compensated
 * (Neumaier 1974).
 *
 * @param points columns of one series, from {@link longestOrdinary} sampling intervals before the grid to as many after it, for intervals that cross its ends
 * @param sampling ms between two samples
 * @param stamp of changes: at the start of the time in which they happened, or at its end
 * @returns `grid.count` values: in the series' own unit, or that per second
 * @throws RangeError when step or sampling is not above 0
 * @example
 * growSeries(totals([0, 60e3, 120e3], [100, 160, 40]), { start: 0, step: 60e3, count: 2 }, 'cumulative', 60e3, 'increase') // [60, 40]
 */
export function growSeries(
  points: SummaryPoints,
  grid: Grid,
  kind: GrowthKind,
  sampling: number,
  statistic: 'rate' | 'increase',
  stamp: Stamp = 'start'
): Float64Array {
  if (!(grid.step > 0) || !(sampling > 0))
    throw new RangeError(`growSeries: step and sampling must be above 0 ms, got ${grid.step} and ${sampling}`);
  const cells = new Growth(grid);
  const { at, sum, count } = points;
  const valueOf = (index: number): number => (sum[index] as number) / (count[index] as number);
  if (kind === 'delta' && stamp === 'end')
    for (let i = 0; i < at.length; i++) {
      const to = at[i] as number;
      const before = i > 0 ? (at[i - 1] as number) : -Infinity;
      const from = to - before <= nearlyOrdinary * sampling ? before : to - sampling;
      cells.spread(from, to, sum[i] as number, false);
    }
  else if (kind === 'delta')
    for (let i = 0; i < at.length; i++) {
      const from = at[i] as number;
      const to = Math.min(from + sampling, i + 1 < at.length ? (at[i + 1] as number) : Infinity);
      cells.spread(from, to, sum[i] as number, false);
    }
  else
    for (let i = 1; i < at.length; i++) {
      const [from, to] = [at[i - 1] as number, at[i] as number];
      const [before, now] = [valueOf(i - 1), valueOf(i)];
      cells.spread(from, to, now < before ? now : now - before, to - from > longestOrdinary * sampling);
    }
  return statistic === 'increase' ? cells.increase() : cells.rate();
}

class Growth {
  readonly #grid: Grid;
  readonly #sum: Float64Array;
  readonly #lost: Float64Array;
  /** Milliseconds of each cell that intervals cover; none is a gap. */
  readonly #covered: Float64Array;

  constructor(grid: Grid) {
    this.#grid = grid;
    this.#sum = new Float64Array(grid.count);
    this.#lost = new Float64Array(grid.count);
    this.#covered = new Float64Array(grid.count);
  }

  /** Adds an amount that grew evenly over [from, to). Over a gap it counts only when it lies in one cell whole: else nobody knows in which it grew. */
  spread(from: number, to: number, amount: number, isGap: boolean): void {
    const grid = this.#grid;
    const first = cellAt(grid, from);
    const last = Math.max(first, cellAt(grid, to - 1)); // instants are whole milliseconds
    if (isGap && first !== last) return;
    for (let cell = Math.max(0, first); cell <= Math.min(grid.count - 1, last); cell++) {
      const overlap = Math.min(to, cellStart(grid, cell + 1)) - Math.max(from, cellStart(grid, cell));
      this.#add(cell, overlap === to - from ? amount : amount * (overlap / (to - from)), overlap);
    }
  }

  increase(): Float64Array {
    return this.#sum.map((sum, cell) => (this.#covered[cell] === 0 ? NaN : sum + (this.#lost[cell] as number)));
  }

  rate(): Float64Array {
    return this.increase().map((grown, cell) => grown / ((this.#covered[cell] as number) / 1000));
  }

  #add(cell: number, value: number, covered: number): void {
    const sum = this.#sum[cell] as number;
    const next = sum + value;
    this.#lost[cell] =
      (this.#lost[cell] as number) + (Math.abs(sum) >= Math.abs(value) ? sum - next + value : value - next + sum);
    this.#sum[cell] = next;
    this.#covered[cell] = (this.#covered[cell] as number) + covered;
  }
}
