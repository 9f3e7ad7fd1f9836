import { cellStart, type Grid, type Instant } from '../time';
import { compareWith, type Comparison, type ConditionData } from './condition';
import { judgeSeries, warmed, type Peak, type Transition } from './judge';
import type { Rule } from './schema';
import { graver, type Severity } from './severity';

/** One period in which a series would have been raised. */
export interface RaisedPeriod {
  readonly seriesId: number;
  readonly from: Instant;
  /** When it would have cleared; null when it would still be raised at the end of the grid. */
  readonly to: Instant | null;
  /** The gravest severity that it would have had. */
  readonly severity: Severity;
  /** Each severity that it would have had, in order. */
  readonly steps: readonly { readonly at: Instant; readonly severity: Severity }[];
  /** The value farthest beyond the bounds; NaN when it was never known. */
  readonly peak: number;
  readonly beyond: number;
}

export interface Rehearsal {
  readonly periods: readonly RaisedPeriod[];
  /** Windows judged, over all series. */
  readonly windows: number;
}

/**
 * Replays an alarm's rule over aligned series: what it would have done, had it been switched on at the first judged cell.
 * A raised series that becomes indeterminate stays in its period until it is clear, as an incident does.
 *
 * @param data a value for each complete cell of each series, a gap is NaN; for all levels, or one for each, where conditions are given something besides
 * @param seriesIds of the columns
 * @param first the first cell that is judged; those before it are there for windows and for conditions that look back
 * @returns periods by start
 * @example rehearse({ grid, columns: [values], zone: 'UTC' }, [1], rule).periods.length // how often it would have been raised
 */
export function rehearse(
  data: ConditionData | readonly ConditionData[],
  seriesIds: readonly number[],
  rule: Rule,
  first = 0
): Rehearsal {
  const levels = 'grid' in data ? rule.levels.map(() => data) : data;
  const [main] = levels;
  if (main === undefined) throw new RangeError('rehearse: no data for any level');
  const comparisons = rule.levels.map(({ condition }, level) => compareWith(condition, levels[level] ?? main));
  const periods = seriesIds.flatMap((seriesId, of) => {
    const own = comparisons.map((all) => all[of] as Comparison);
    const count = (main.columns[of] as ArrayLike<number>).length;
    const { transitions, memory } = judgeSeries(rule, warmed(rule, own, first), own, first, count);
    return periodsOf(
      transitions,
      main.grid,
      memory.levels.map(({ peak }) => peak)
    ).map((period) => ({ seriesId, ...period }));
  });
  const windows = main.columns.reduce((sum, { length }) => sum + Math.max(0, length - first), 0);
  return { periods: periods.sort((a, b) => a.from - b.from), windows };
}

type Period = Omit<RaisedPeriod, 'seriesId'>;

/**
 * The raised periods that transitions make.
 *
 * @param peaks of the levels at the end, for a period that is still open
 */
export function periodsOf(transitions: readonly Transition[], grid: Grid, peaks: readonly (Peak | null)[]): Period[] {
  const periods: Period[] = [];
  let open: { from: Instant; steps: { at: Instant; severity: Severity }[]; peak: Peak | null } | null = null;
  const close = (to: Instant | null, peak: Peak | null) => {
    if (open === null) return;
    const worst = worseOf(open.peak, peak);
    const severity = open.steps.reduce<Severity | null>((most, step) => graver(most, step.severity), null) as Severity;
    periods.push({
      from: open.from,
      to,
      severity,
      steps: open.steps,
      peak: worst?.value ?? NaN,
      beyond: worst?.beyond ?? NaN
    });
    open = null;
  };
  for (const { index, to, peak } of transitions) {
    const at = cellStart(grid, index + 1);
    if (to.severity === null) close(at, peak);
    else {
      open ??= { from: at, steps: [], peak: null };
      open.peak = worseOf(open.peak, peak);
      if (open.steps.at(-1)?.severity !== to.severity) open.steps.push({ at, severity: to.severity });
    }
  }
  close(
    null,
    peaks.reduce<Peak | null>((worst, peak) => worseOf(worst, peak), null)
  );
  return periods;
}

/** The peak that lies farther beyond its bounds; null counts as none. */
export function worseOf(one: Peak | null, other: Peak | null): Peak | null {
  if (one === null || other === null) return one ?? other;
  return other.beyond > one.beyond ? other : one;
}

/** The period whose peak lies farthest beyond its bounds; undefined when there is none. */
export const worstPeriod = ({ periods }: Rehearsal): RaisedPeriod | undefined =>
  periods.filter(({ beyond }) => !Number.isNaN(beyond)).toSorted((a, b) => b.beyond - a.beyond)[0];
