import { Refusal, refusalOf } from '$lib/core/problem/problem';
import type { Logger } from 'pino';
import {
  judgeCells,
  peakBetween,
  watchedTitle,
  type Change,
  type Condition,
  type Evidence,
  type State
} from '$lib/core/alarm';
import { isPick, labelKey, plainPick, stepOf, type Column } from '$lib/core/signal';
import { after, before, cellStart, day, hour, minute, range, times, type Grid, type Instant } from '$lib/core/time';
import {
  dropSeries,
  saveStates,
  makeIndeterminate,
  noteAlarmError,
  seriesStates,
  type Alarm,
  type AlarmSeries,
  type Watched
} from '../alarms/alarms';
import { closeIncident, noteChange, notePeak, openIncident, openIncidentsOfAlarm } from '../incidents/incidents';
import type { Changes } from '../base/changes';
import type { Queryable } from '../db/pool';
import { metricByName } from '../inventory/metrics';
import type { Series } from '../inventory/series';
import { everySeries, refuseTwins, resolveSignal, workOf, type Resolved } from '../query/signals/resolve';
import { completeUntilOf } from '../query/signals/arrivals';
import { arrivedNow, type Arrivals } from '../query/signals/arrived-now';
import type { SignalEvaluator } from '../query/signals/work';
import { latestOf, seriesById } from './arrivals';
import { notifyOfIncident, notifyOfUnjudged, type Notifier } from './notify';

export interface Engine extends Notifier, Arrivals {
  readonly evaluator: SignalEvaluator;
  readonly changes: Changes;
  readonly log: Logger;
}

/** An incident that was over longer ago when it became known is recorded, and nobody is notified of it. */
const latestNews = hour;
/** An alarm that cannot be judged for so long is reported to its channels. */
const unjudgedFor = times(10, minute);

/** How far back cells are judged after a stop. */
const longestCatchUp = times(2, day);
/** Cells of all series together that are computed at once: after a long stop, what is due is judged in pieces. */
export const mostCells = 5_000_000;

/** One series with something to judge. */
interface Due {
  readonly watched: Watched;
  readonly values: Float64Array;
  readonly state: State;
  readonly since: Instant;
  /** Judge the cells of [from, to). */
  readonly from: Instant;
  readonly to: Instant;
}

/** The result of evaluating an alarm's signal. */
interface Judged {
  readonly grid: Grid;
  readonly unit: string;
  /** The title of what it watches. */
  readonly title: string;
}

/**
 * Evaluates one alarm: judges, for each series of its signal, every cell that has become complete since the last time, in order. States, changes with
 * their numbers, incidents and messages are written in one transaction. An alarm that cannot be judged, whatever the reason, says why; all its states are indeterminate, and after ten minutes its channels are
 * notified.
 *
 * Of an incident that opens and closes within one evaluation, since its data came late or in batches, people are notified once, unless it was over more than an hour ago.
 *
 * @returns how many states changed
 */
export async function evaluateAlarm(engine: Engine, alarm: Alarm): Promise<number> {
  try {
    const changed = await judge(engine, alarm);
    if (alarm.lastError !== null) await noteAlarmError(engine.db, alarm.id, null);
    if (changed > 0 || alarm.lastError !== null) engine.changes.tell('alarm', { alarmId: alarm.id });
    return changed;
  } catch (error) {
    await noteUnjudged(engine, alarm, error);
    return 0;
  }
}

/** Notes why an alarm cannot be judged; an unexpected error is logged once, not with every try. */
async function noteUnjudged(engine: Engine, alarm: Alarm, error: unknown): Promise<void> {
  const now = engine.clock.now();
  const { message, remedy } =
    error instanceof Refusal
      ? error
      : {
          message: `An unexpected error stopped it (${error instanceof Error ? error.name : 'unknown'}).`,
          remedy: 'See Bussola’s log; it is tried again by itself.'
        };
  const known = alarm.lastError?.message === message ? alarm.lastError : null;
  if (known === null && !(error instanceof Refusal))
    engine.log.error({ err: error, alarmId: alarm.id }, 'an alarm cannot be judged');
  const since = known?.since ?? alarm.lastError?.since ?? now;
  const notifiedAt = alarm.lastError?.notifiedAt ?? null;
  const isDue = notifiedAt === null && now - since >= unjudgedFor;
  if (known !== null && !isDue) return;
  const noted = { message, remedy, since, notifiedAt: isDue ? now : notifiedAt };
  await engine.db.transaction(async (within) => {
    await noteAlarmError(within, alarm.id, noted);
    await makeIndeterminate(within, alarm.id, now);
    if (isDue) await notifyOfUnjudged(engine, within, alarm, noted);
  });
  engine.changes.tell('alarm', { alarmId: alarm.id });
}

async function judge(engine: Engine, alarm: Alarm): Promise<number> {
  const { signal, rule } = alarm.definition;
  const { db, evaluator, clock } = engine;
  const now = clock.now();
  const step = stepOf(signal);
  const resolved = await resolveSignal(db, signal);
  const complete = await completeUntilOf(await arrivedNow(engine), resolved, step);
  const states = new Map((await seriesStates(db, alarm.id)).map((state) => [state.key, state]));
  const begun = (known: AlarmSeries | undefined): known is AlarmSeries =>
    known !== undefined && known.judgedUntil > 0 && known.judgedUntil <= now; // one in the future is a clock that was set back
  const latest = latestOf(complete);
  /** From where on a series with cells complete until `to` is to be judged. */
  const fromOf = (known: AlarmSeries | undefined, to: Instant): Instant =>
    begun(known)
      ? (Math.max(Math.ceil(known.judgedUntil / step) * step, before(to, longestCatchUp)) as Instant)
      : before(to, step);

  const series = seriesById(resolved);
  const alone = dueAlone(resolved, complete, states, fromOf);
  // Who is watched is known before anything is computed when there is nothing, or each series is for itself.
  if (alone !== null || series.size === 0)
    await dropUnwatched(engine, alarm, new Set([...series.keys()].map(String)), states);
  const isWaiting = (known: AlarmSeries) => !begun(known) || known.judgedUntil < latest;
  const isDue =
    alone === null ? states.size === 0 || [...states.values()].some(isWaiting) : everySeries(alone.series).length > 0;
  if (latest === 0 || !isDue) return 0;

  let first: Instant = before(latest, step);
  for (const to of complete.values()) if (to > 0) first = earliest(first, before(to, step));
  for (const known of states.values()) if (begun(known)) first = earliest(first, fromOf(known, latest));
  if (first < latest - longestCatchUp) first = before(latest, longestCatchUp);
  const room = Math.max(1, Math.floor(mostCells / series.size));
  const until = earliest(latest, after(first, times(room, step)));
  const span = range(before(first, times(rule.window.of - 1, step)), until);
  const worked = await evaluator.evaluate(workOf(alone ?? resolved, now, complete), span, step);
  if (worked.kind === 'fault') throw refusalOf(worked.problem);
  const [row] = worked.rows;
  const columns = row?.columns ?? [];
  const watchedOf = watching(series);
  refuseTwins(columns.filter(({ seriesId }) => seriesId === null));
  if (alone === null)
    await dropUnwatched(engine, alarm, new Set(columns.map((column) => watchedOf(column).key)), states);

  const due = columns.flatMap((column): Due[] => {
    const watched = watchedOf(column);
    const known = states.get(watched.key);
    const to = (Math.floor(Math.min(column.completeUntil, until) / step) * step) as Instant;
    const from = Math.max(first, fromOf(known, to)) as Instant;
    if (to <= 0 || from >= to) return [];
    const { state = 'indeterminate', since = from } = known ?? {};
    return [{ watched, values: column.values, state, since, from, to }];
  });
  if (due.length === 0) return 0;
  const pick = plainPick(signal);
  const metric = pick && (await metricByName(db, pick.metric));
  const title = watchedTitle(alarm.definition, () => metric ?? undefined);
  return writeJudgements(engine, alarm, { grid: worked.grid, unit: row?.unit ?? '1', title }, due);
}

const earliest = (one: Instant, other: Instant): Instant => (one < other ? one : other);

/** When a signal's columns are its series themselves, only those that have something to judge need be computed; null when all are needed. */
function dueAlone(
  resolved: Resolved,
  complete: ReadonlyMap<number, Instant>,
  states: ReadonlyMap<string, AlarmSeries>,
  fromOf: (known: AlarmSeries | undefined, to: Instant) => Instant
): Resolved | null {
  const [row] = resolved.signal.rows;
  if (resolved.signal.rows.length > 1 || row === undefined || !isPick(row) || row.combine) return null;
  const due = (resolved.series[row.name] ?? []).filter(({ id }) => {
    const to = complete.get(id) ?? (0 as Instant);
    return to > 0 && fromOf(states.get(String(id)), to) < to;
  });
  return { ...resolved, series: { [row.name]: due } };
}

/** Who a column of a signal is: a stored series by its id, others by their labels. */
export function watching(
  series: ReadonlyMap<number, Series>
): (column: Pick<Column, 'labels' | 'seriesId'>) => Watched {
  return ({ labels, seriesId }) => ({
    key: seriesId === null ? labelKey(labels) : String(seriesId),
    labels,
    seriesId,
    accountId: seriesId === null ? null : (series.get(seriesId)?.accountId ?? null)
  });
}

async function writeJudgements(engine: Engine, alarm: Alarm, judged: Judged, due: readonly Due[]): Promise<number> {
  const { rule } = alarm.definition;
  return engine.db.transaction(async (within) => {
    const open = new Map((await openIncidentsOfAlarm(within, alarm.id)).map((incident) => [incident.key, incident]));
    const kept: AlarmSeries[] = [];
    let count = 0;
    for (const one of due) {
      const changes = judgeCells(one.values, rule, one.state, cellIndex(judged, one.from), cellIndex(judged, one.to));
      await applyChanges(engine, within, alarm, judged, one, changes, open.get(one.watched.key) ?? null);
      const end = changes.at(-1);
      kept.push({
        ...one.watched,
        alarmId: alarm.id,
        state: end?.to ?? one.state,
        since: end ? cellStart(judged.grid, end.index + 1) : one.since,
        judgedUntil: one.to
      });
      count += changes.length;
    }
    await saveStates(within, kept);
    return count;
  });
}

const cellIndex = ({ grid }: Judged, at: Instant): number => Math.round((at - grid.start) / grid.step);

/** Writes the changes of one series: evidence, incidents opened and closed, their peaks, and what people are notified of. */
async function applyChanges(
  engine: Engine,
  within: Queryable,
  alarm: Alarm,
  judged: Judged,
  { watched, values, from, to }: Due,
  changes: readonly Change[],
  openBefore: { readonly id: number; readonly peak: number | null } | null
): Promise<void> {
  const { rule, severity } = alarm.definition;
  const alarmId = alarm.id;
  let open: OpenIncident | null = openBefore && {
    ...openBefore,
    fresh: false,
    firstCell: cellIndex(judged, from),
    value: NaN
  };

  for (const change of changes) {
    const at = cellStart(judged.grid, change.index + 1);
    const value = values[change.index] as number;
    let incidentId = open?.id ?? null;
    if (change.to === 'raised' && open === null) {
      incidentId = await openIncident(within, { ...watched, alarmId, unit: judged.unit, severity, openedAt: at });
      open = {
        id: incidentId,
        peak: null,
        fresh: true,
        firstCell: Math.max(0, change.index - rule.window.of + 1),
        value
      };
    } else if (change.to === 'clear' && open !== null) {
      const peak = await keepPeak(within, open, values, change.index, rule.condition);
      await closeIncident(within, open.id, at);
      if (!open.fresh || at >= before(engine.clock.now(), latestNews))
        await notifyOfIncident(engine, within, alarm, judged, {
          incidentId: open.id,
          closedAt: at,
          isPassed: open.fresh,
          value,
          peak
        });
      open = null;
    }
    await noteChange(within, {
      alarmId,
      key: watched.key,
      incidentId,
      at,
      from: change.from,
      to: change.to,
      evidence: evidenceOf(judged, values, change, alarm)
    });
  }
  if (open === null) return;
  const peak = await keepPeak(within, open, values, cellIndex(judged, to) - 1, rule.condition);
  if (open.fresh)
    await notifyOfIncident(engine, within, alarm, judged, {
      incidentId: open.id,
      closedAt: null,
      value: open.value,
      peak
    });
}

interface OpenIncident {
  readonly id: number;
  readonly peak: number | null;
  /** Opened by this evaluation: nobody has been notified yet. */
  readonly fresh: boolean;
  /** The first cell whose value counts for the peak. */
  readonly firstCell: number;
  /** The value of the cell it was raised on. */
  readonly value: number;
}

/** Brings an incident's peak up to date with the cells up to `last`. */
async function keepPeak(
  within: Queryable,
  { id, peak, firstCell }: OpenIncident,
  values: Float64Array,
  last: number,
  condition: Condition
): Promise<number> {
  const seen = peakBetween(values, firstCell, last, condition);
  const both = peakBetween([peak ?? NaN, seen], 0, 1, condition);
  if (!Number.isNaN(both) && both !== peak) await notePeak(within, id, both);
  return both;
}

/** The numbers that a change of state was decided on. */
export function evidenceOf(
  { grid }: Pick<Judged, 'grid'>,
  values: Float64Array,
  { index, met, missing }: Change,
  { definition: { rule } }: Alarm
): Evidence {
  const first = Math.max(0, index - rule.window.of + 1);
  const window = Array.from(values.subarray(first, index + 1), (value) => (Number.isNaN(value) ? null : value));
  return { start: cellStart(grid, first), step: grid.step, values: window, met, missing, rule };
}

/** Forgets series that the alarm no longer watches, and closes what they had open. */
async function dropUnwatched(
  { db, clock, changes }: Engine,
  alarm: Alarm,
  watched: ReadonlySet<string>,
  known: ReadonlyMap<string, AlarmSeries>
): Promise<void> {
  const gone = [...known.keys()].filter((key) => !watched.has(key));
  if (gone.length === 0) return;
  await db.transaction(async (within) => {
    for (const { id, key } of await openIncidentsOfAlarm(within, alarm.id))
      if (gone.includes(key)) await closeIncident(within, id, clock.now());
    await dropSeries(within, alarm.id, gone);
  });
  changes.tell('alarm', { alarmId: alarm.id });
}
