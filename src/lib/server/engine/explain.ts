import {
  boundAt,
  cellCode,
  codesOf,
  compareWith,
  stepOfAlarm,
  windowCells,
  type AlarmDefinition,
  type Comparison,
  type Explanation
} from '$lib/core/alarm';
import { Refusal } from '$lib/core/problem/problem';
import { before, cellStart, range, times, type Instant } from '$lib/core/time';
import { columnKey, ruleNeeds } from './condition-data';
import type { ReadCells, SourceContext } from './source';
import { watchedSource } from './watched-source';

/** What an alarm saw of a series at a moment. */
export interface ExplanationAsked {
  readonly alarm: AlarmDefinition;
  /** Which series, see `Watched`. */
  readonly key: string;
  readonly at: Instant;
}

/**
 * What the windows held that were complete at a moment, by what is stored now.
 *
 * @throws Refusal when its signal cannot be evaluated; `not-found` when it had no such series then
 */
export async function explainAlarm(context: SourceContext, { alarm, key, at }: ExplanationAsked): Promise<Explanation> {
  const { rule } = alarm;
  const step = stepOfAlarm(alarm);
  const source = await watchedSource(context, { definition: alarm }, step, 'past');
  const until = (Math.floor(Math.min(at, source.latest) / step) * step) as Instant;
  const { lead, begin } = ruleNeeds(rule, step);
  const count = windowCells(rule);
  const span = range(before(until, times(lead + begin + count, step)), until);
  const cells = await source.read(span, new Set([key]), () => null);
  const of = cells.columns.findIndex((column) => columnKey(column) === key);
  const column = cells.columns[of];
  if (!column)
    throw new Refusal('not-found', 'It watched no such series then.', 'Choose another series, or another moment.');
  // Cells that may still get samples are not judged yet, those without any are once their time is over.
  const complete = Math.max(column.completeUntil, source.gapsFinal(column) ?? 0);
  const end = Math.max(0, Math.min(cells.grid.count, Math.floor((complete - cells.grid.start) / step)));
  const first = Math.max(0, end - count);
  return {
    ...{ until: cellStart(cells.grid, end), step, unit: cells.unit, labels: column.labels },
    levels: rule.levels.map((level, position) => {
      const comparison = compareWith(level.condition, cells.data[position] as ReadCells['data'][number])[of];
      const codes = comparison ? codesOf(comparison, first, end) : new Uint8Array(end - first).fill(cellCode.missing);
      return {
        level,
        values: listed(comparison?.subject, first, end),
        low: bounds(comparison, 'low', first, end),
        high: bounds(comparison, 'high', first, end),
        codes: codes.join('')
      };
    })
  };
}

const finite = (value: number | undefined): number | null =>
  value !== undefined && Number.isFinite(value) ? value : null;
const listed = (values: ArrayLike<number> | undefined, first: number, end: number): (number | null)[] =>
  Array.from({ length: end - first }, (_, i) => finite(values?.[first + i]));
const bounds = (comparison: Comparison | undefined, side: 'low' | 'high', first: number, end: number) =>
  Array.from({ length: end - first }, (_, i) => (comparison ? finite(boundAt(comparison[side], first + i)) : null));
