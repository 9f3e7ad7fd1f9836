import { judgeCells, peakBetween, type Change } from '$lib/core/alarm';
import { stepOf, type Column } from '$lib/core/signal';
import {
  before,
  cellStart,
  day,
  range,
  times,
  type Duration,
  type Grid,
  type Instant,
  type Range
} from '$lib/core/time';
import { isRefused, refusalOf } from '$lib/core/problem/problem';
import { historyToJudge, noteHistoryJudged, type Alarm, type HistoryToJudge } from '../alarms/alarms';
import type { Queryable } from '../db/pool';
import { closeIncident, incidentWithin, moveOpening, noteChange, notePeak, openIncident } from '../incidents/incidents';
import { gapsWithin } from '../intake/pull/gaps';
import type { Series } from '../inventory/series';
import { refuseTwins, resolveSignal, workOf, type Resolved } from '../query/signals/resolve';
import { seriesById } from './arrivals';
import { evidenceOf, mostCells, watching, type Engine } from './evaluate';

/** One raised period of one series within a piece. */
interface Period {
  readonly opening: Change;
  readonly closing: Change | null;
}

/**
 * Judges one more piece of the history that alarms want judged, newest first, as soon as all of it has been fetched. What was raised then becomes an incident that was judged
 * afterwards: nobody is notified.
 *
 * @param piece of history that is judged at once
 * @returns whether there was something to judge
 */
export async function judgeHistory(engine: Engine, piece: Duration = day): Promise<boolean> {
  for (const wanted of await historyToJudge(engine.db)) {
    try {
      if (await judgePiece(engine, wanted, piece)) return true;
    } catch (error) {
      if (isRefused(error)) continue; // its metrics are not known yet, for instance: the alarm itself says what is wrong
      // The history of the other alarms does not wait for this one.
      engine.log.error({ err: error, alarmId: wanted.alarm.id }, 'the history of an alarm could not be judged');
    }
  }
  return false;
}

async function judgePiece(
  engine: Engine,
  { alarm, wantedFrom, judgedFrom }: HistoryToJudge,
  piece: Duration
): Promise<boolean> {
  const { db, evaluator, clock, changes } = engine;
  const { signal, rule } = alarm.definition;
  const step = stepOf(signal);
  const resolved = await resolveSignal(db, signal);
  const series = [...seriesById(resolved).values()];
  if (series.length === 0) return false;
  const room = times(Math.max(1, Math.floor(mostCells / series.length)), step);
  const span = range(Math.max(wantedFrom, before(judgedFrom, piece), before(judgedFrom, room)) as Instant, judgedFrom);
  if (!(await isFetched(db, series, span))) return false;
  const withLead = range(before(span.from, times(rule.window.of - 1, step)), span.to);
  const worked = await evaluator.evaluate(workOf(resolved, clock.now()), withLead, step);
  if (worked.kind === 'fault') throw refusalOf(worked.problem);
  const [row] = worked.rows;
  const columns = row?.columns ?? [];
  refuseTwins(columns.filter(({ seriesId }) => seriesId === null));
  const periods = columns.map((column) => ({ column, periods: periodsOf(column, worked.grid, span, alarm) }));
  await db.transaction(async (within) => {
    if (!(await noteHistoryJudged(within, alarm.id, span))) return;
    for (const { column, periods: of } of periods)
      await record(within, alarm, resolved, { grid: worked.grid, unit: row?.unit ?? '1', span }, column, of);
  });
  if (periods.some(({ periods: of }) => of.length > 0)) changes.tell('alarm', { alarmId: alarm.id });
  return true;
}

/** Whether all that some series had in a span has been fetched. */
async function isFetched(db: Queryable, series: readonly Series[], span: Range): Promise<boolean> {
  const missing = await gapsWithin(db, span);
  return !series.some(({ accountId, conditionLabels }) =>
    missing.some((gap) => gap.accountId === accountId && gap.service === conditionLabels['service'])
  );
}

/** The raised periods of a column whose deciding cells lie in the span. */
function periodsOf({ values }: Column, grid: Grid, span: Range, { definition: { rule } }: Alarm): Period[] {
  const periods: Period[] = [];
  let opening: Change | null = null;
  const first = Math.round((span.from - grid.start) / grid.step);
  const end = Math.min(values.length, Math.round((span.to - grid.start) / grid.step));
  for (const change of judgeCells(values, rule, 'indeterminate', first, end)) {
    if (change.to === 'raised' && opening === null) opening = change;
    else if (change.to === 'clear' && opening !== null) {
      periods.push({ opening, closing: change });
      opening = null;
    }
  }
  if (opening !== null) periods.push({ opening, closing: null });
  return periods;
}

interface JudgedPiece {
  readonly grid: Grid;
  readonly unit: string;
  readonly span: Range;
}

/**
 * Writes the periods of one series. One that overlaps an incident that is known, found in the piece after this one or opened by the engine itself, is the beginning of that incident. Where data are
 * missing just at the border of two pieces, it stays apart.
 */
async function record(
  within: Queryable,
  alarm: Alarm,
  resolved: Resolved,
  judged: JudgedPiece,
  column: Column,
  periods: readonly Period[]
): Promise<void> {
  const { rule, severity } = alarm.definition;
  const { grid, unit, span } = judged;
  const watched = watching(seriesById(resolved))(column);
  const at = ({ index }: Change) => cellStart(grid, index + 1);
  for (const { opening, closing } of periods) {
    const openedAt = at(opening);
    const last = closing?.index ?? Math.round((span.to - grid.start) / grid.step) - 1;
    const peak = peakBetween(column.values, opening.index - rule.window.of + 1, last, rule.condition);
    // What is raised in the last cell of this piece and in the first of the next is one.
    const until = closing === null ? cellStart(grid, last + 2) : at(closing);
    const next = await incidentWithin(within, alarm.id, watched.key, range(openedAt, until));
    const incidentId =
      next?.id ??
      (await openIncident(within, { ...watched, alarmId: alarm.id, unit, severity, openedAt, judgedAfterwards: true }));
    if (next === null) await closeIncident(within, incidentId, closing === null ? span.to : at(closing));
    else if (openedAt < next.openedAt) await moveOpening(within, incidentId, openedAt);
    const both = peakBetween([next?.peak ?? NaN, peak], 0, 1, rule.condition);
    if (!Number.isNaN(both)) await notePeak(within, incidentId, both);
    for (const change of closing === null ? [opening] : [opening, closing])
      await noteChange(within, {
        alarmId: alarm.id,
        key: watched.key,
        incidentId,
        at: at(change),
        from: change.from,
        to: change.to,
        evidence: evidenceOf({ grid }, column.values, change, alarm)
      });
  }
}
