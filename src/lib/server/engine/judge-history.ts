import { judgeCells, peakBetween, type Change } from '$lib/core/alarm';
import { stepOf, type Column } from '$lib/core/signal';
import {
  after,
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
import { closeIncident, incidentsSince, moveOpening, noteChange, notePeak, openIncident } from '../incidents/incidents';
import { gapsWithin } from '../intake/pull/gaps';
import { resolveSignal, workOf, type Resolved } from '../query/signals/resolve';
import { seriesById } from './arrivals';
import { evidenceOf, watching, type Engine } from './evaluate';

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
  for (const wanted of await historyToJudge(engine.db)) if (await judgePiece(engine, wanted, piece)) return true;
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
  const span = range(Math.max(wantedFrom, before(judgedFrom, piece)) as Instant, judgedFrom);
  try {
    const resolved = await resolveSignal(db, signal);
    if (!(await isFetched(db, resolved, span))) return false;
    const withLead = range(before(span.from, times(rule.window.of - 1, step)), span.to);
    const worked = await evaluator.evaluate(workOf(resolved, clock.now()), withLead, step);
    if (worked.kind === 'fault') throw refusalOf(worked.problem);
    const [row] = worked.rows;
    const periods = (row?.columns ?? []).map((column) => ({
      column,
      periods: periodsOf(column, worked.grid, span, alarm)
    }));
    await db.transaction(async (within) => {
      if (!(await noteHistoryJudged(within, alarm.id, span))) return;
      for (const { column, periods: of } of periods)
        await record(within, alarm, resolved, { grid: worked.grid, unit: row?.unit ?? '1', span }, column, of);
    });
    if (periods.some(({ periods: of }) => of.length > 0)) changes.tell('alarm', { alarmId: alarm.id });
    return true;
  } catch (error) {
    if (isRefused(error)) return false; // its metrics are not known yet: the alarm itself says what is wrong
    throw error;
  }
}

/** Whether all that the series of a signal had in a span has been fetched, and there are series at all. */
async function isFetched(db: Queryable, resolved: Resolved, span: Range): Promise<boolean> {
  const series = [...seriesById(resolved).values()];
  if (series.length === 0) return false;
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

/** Writes the periods of one series. One that lasts to the end of the piece is the beginning of what was found in the piece after it, if that began there. */
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
    const next =
      closing === null
        ? (await incidentsSince(within, alarm.id, watched.key, span.to)).find(
            (one) => one.openedAt <= after(span.to, times(rule.window.of, grid.step as never))
          )
        : undefined;
    const incidentId =
      next?.id ??
      (await openIncident(within, { ...watched, alarmId: alarm.id, unit, severity, openedAt, judgedAfterwards: true }));
    if (next === undefined) await closeIncident(within, incidentId, closing === null ? span.to : at(closing));
    else await moveOpening(within, incidentId, openedAt);
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
