import { boundAt, compareWith, windowCells, type Comparison, type Evidence } from '$lib/core/alarm';
import { before, range, times, type Duration, type Instant } from '$lib/core/time';
import type { Alarm } from '../alarms/alarms';
import { columnKey } from './condition-data';
import type { JudgedChange, JudgedSeries } from './judged';
import type { ReadCells, WatchedSource } from './source';

/** Stands in until the numbers are read. */
export const noEvidence = {} as Evidence;

/** Adds the numbers that changes were decided on. Windows that reach back before what was read are read once more, for the series that changed alone. */
export async function addEvidence(
  source: WatchedSource,
  alarm: Pick<Alarm, 'definition' | 'version'>,
  step: Duration,
  cells: ReadCells,
  series: JudgedSeries[],
  lead: number,
  lastValueAt: (key: string) => Instant | null
): Promise<void> {
  const { rule } = alarm.definition;
  const changed = series.filter(({ changes }) => changes.length > 0);
  if (changed.length === 0) return;
  const count = windowCells(rule);
  const earliest = changed.reduce<Instant>(
    (least, { changes: [first] }) => (first && first.at < least ? first.at : least),
    (cells.grid.start + cells.grid.count * step) as Instant
  );
  const first = before(earliest, times(count, step));
  const end = (cells.grid.start + cells.grid.count * step) as Instant;
  const read =
    first >= cells.grid.start
      ? cells
      : await source.read(
          range(before(first, times(lead, step)), end),
          new Set(changed.map(({ watched }) => watched.key)),
          lastValueAt
        );
  const comparisons = rule.levels.map(({ condition }, level) =>
    compareWith(condition, read.data[level] as ReadCells['data'][number])
  );
  const positions = new Map(read.columns.map((column, of) => [columnKey(column), of]));
  for (const [index, one] of series.entries()) {
    if (one.changes.length === 0) continue;
    const of = positions.get(one.watched.key);
    const changes = one.changes.map((change) => {
      const comparison = of === undefined ? null : (comparisons[change.transition.level]?.[of] ?? null);
      return { ...change, evidence: evidenceOf(alarm, step, read, comparison, change) };
    });
    series[index] = { ...one, changes };
  }
}

/** The numbers that a change was decided on: the cells as they are now, and what they said when they were judged. */
export function evidenceOf(
  { definition: { rule }, version }: Pick<Alarm, 'definition' | 'version'>,
  step: Duration,
  { grid }: Pick<ReadCells, 'grid'>,
  comparison: Comparison | null,
  { at, transition }: Pick<JudgedChange, 'at' | 'transition'>
): Evidence {
  const { codes, level, met, missing, well } = transition;
  const start = at - codes.length * step;
  const first = Math.round((start - grid.start) / step);
  const finite = (value: number) => (Number.isFinite(value) ? value : null);
  const cells = Array.from(codes, (_, i) => first + i);
  const bound = (side: 'low' | 'high') => {
    const all = cells.map((i) => (comparison && i >= 0 ? finite(boundAt(comparison[side], i)) : null));
    return all.every((one) => one === all[0]) ? all.slice(0, 1) : all;
  };
  return {
    start,
    step,
    values: cells.map((i) => (comparison && i >= 0 ? finite(comparison.subject[i] as number) : null)),
    low: bound('low'),
    high: bound('high'),
    codes: codes.join(''),
    met,
    missing,
    well,
    level: rule.levels[level] as Evidence['level'],
    window: rule.window,
    ...(rule.clearing && { clearing: rule.clearing }),
    whenMissing: rule.whenMissing,
    alarmVersion: version
  };
}
