import { cellStart, type Grid, type Instant } from '../time';
import { judgeCells } from './judge';
import type { Condition, Rule } from './schema';

/** One period in which a series would have been raised. */
export interface RaisedPeriod {
  readonly seriesId: number;
  readonly from: Instant;
  /** When it would have cleared; null when it would still be raised at the end of the grid. */
  readonly to: Instant | null;
  /** The value farthest beyond the threshold while it was raised, or on the way to it. */
  readonly peak: number;
}

export interface Rehearsal {
  readonly periods: readonly RaisedPeriod[];
  /** Windows judged, over all series. */
  readonly windows: number;
}

/**
 * Replays an alarm's rule over aligned series: what it would have done, had it been switched on at the start of the grid.
 * A raised series that becomes indeterminate stays in its period until it is clear, as an incident does.
 *
 * @param columns one for each series, a value for each complete cell; a gap is NaN
 * @returns periods by start
 * @example rehearse(grid, [{ seriesId: 1, values }], rule).periods.length // how often it would have been raised
 */
export function rehearse(
  grid: Grid,
  columns: readonly { readonly seriesId: number; readonly values: ArrayLike<number> }[],
  rule: Rule
): Rehearsal {
  const periods = columns.flatMap(({ seriesId, values }) =>
    periodsOf(values, rule).map(({ first, last }) => ({
      seriesId,
      from: cellStart(grid, first + 1),
      to: last === null ? null : cellStart(grid, last + 1),
      peak: peakBetween(values, first - rule.window.of + 1, last ?? values.length - 1, rule.condition)
    }))
  );
  const windows = columns.reduce((sum, { values }) => sum + values.length, 0);
  return { periods: periods.sort((a, b) => a.from - b.from), windows };
}

/**
 * The period whose peak lies farthest in the condition's direction; undefined when there is none.
 *
 * @example worstPeriod(rehearsal, { is: 'below', threshold: 10 })?.peak // the lowest
 */
export const worstPeriod = ({ periods }: Rehearsal, { is }: Condition): RaisedPeriod | undefined =>
  periods
    .filter(({ peak }) => !Number.isNaN(peak))
    .toSorted((a, b) => (is === 'above' ? b.peak - a.peak : a.peak - b.peak))[0];

/** Raised periods as indices of the deciding cells. */
function periodsOf(values: ArrayLike<number>, rule: Rule): { first: number; last: number | null }[] {
  const found: { first: number; last: number | null }[] = [];
  let open: { first: number; last: number | null } | null = null;
  for (const { index, to } of judgeCells(values, rule, 'indeterminate')) {
    if (to === 'raised' && open === null) found.push((open = { first: index, last: null }));
    else if (to === 'clear' && open !== null) {
      open.last = index;
      open = null;
    }
  }
  return found;
}

/**
 * The value farthest in the condition's direction among cells [first, last]; NaN when none has a value.
 *
 * @example peakBetween(Float64Array.of(1, 9, 3), 0, 2, { is: 'above', threshold: 2 }) // 9
 */
export function peakBetween(values: ArrayLike<number>, first: number, last: number, { is }: Condition): number {
  let peak = NaN;
  for (let i = Math.max(0, first); i <= last; i++) {
    const value = values[i] as number;
    if (Number.isNaN(value)) continue;
    if (Number.isNaN(peak) || (is === 'above' ? value > peak : value < peak)) peak = value;
  }
  return peak;
}
