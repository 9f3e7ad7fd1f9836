import type { Grid } from '../time';

/** One series of a frame: who it is and its aligned values, one for each cell; a gap is NaN. */
export interface FrameColumn {
  readonly seriesId: number;
  readonly values: Float64Array;
  /** Start of the newest sample, ms since the epoch; null when the series has none. */
  readonly newest: number | null;
}

/** Series brought onto one grid. */
export interface Frame {
  readonly grid: Grid;
  readonly columns: readonly FrameColumn[];
}

export interface ColumnSummary {
  readonly min: number;
  readonly max: number;
  readonly avg: number;
  /** The value of the last cell that has one. */
  readonly last: number;
  readonly missing: number;
}

/**
 * The figures of a legend: over the cells that have a value. All NaN when none has.
 *
 * @example summarise(Float64Array.of(1, NaN, 3)) // { min: 1, max: 3, avg: 2, last: 3, missing: 1 }
 */
export function summarise(values: ArrayLike<number>): ColumnSummary {
  let min = NaN;
  let max = NaN;
  let last = NaN;
  let sum = 0;
  let present = 0;
  for (let i = 0; i < values.length; i++) {
    const value = values[i] as number;
    if (Number.isNaN(value)) continue;
    if (!(value >= min)) min = value;
    if (!(value <= max)) max = value;
    last = value;
    sum += value;
    present++;
  }
  return { min, max, avg: present > 0 ? sum / present : NaN, last, missing: values.length - present };
}
