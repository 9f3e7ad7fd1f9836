import { completeUntil, judgeCells, peakBetween, type Change, type Condition, type State } from '$lib/core/alarm';
import { waitsForNext, type Statistic } from '$lib/core/series';
import { requirePlainPick, stepOf } from '$lib/core/signal';
import {
  before,
  cellStart,
  day,
  duration,
  range,
  times,
  type Clock,
  type Duration,
  type Grid,
  type Instant,
  type Range
} from '$lib/core/time';
import { dropSeries, keepStates, seriesStates, type Alarm, type AlarmSeries } from '../alarms/alarms';
import {
  closeIncident,
  noteChange,
  notePeak,
  openIncident,
  openIncidentsOfAlarm,
  type Evidence
} from '../alarms/incidents';
import type { Changes } from '../changes';
import type { Database, Queryable } from '../db/pool';
import { allCollections } from '../intake/collections';
import { metricByName, type Metric, type Series } from '../intake/resources';
import { seriesOfPick, workOf } from '../signals/resolve';
import type { StoreClient } from '../store/open-store';
import { tellOfIncident, type Teller } from './tell';

export interface Engine extends Teller {
  readonly db: Database;
  readonly clock: Clock;
  readonly store: StoreClient;
  readonly changes: Changes;
}

/** How far back cells are judged after a stop. */
const longestCatchUp = times(2, day);

/** One series with something to judge. */
interface Due {
  readonly series: Series;
  readonly state: State;
  readonly since: Instant;
  /** Judge the cells of [from, to). */
  readonly from: Instant;
  readonly to: Instant;
}

/**
 * Evaluates one alarm: judges, for each of its series, every cell that has become complete since the last time, in order. States, changes with
 * their numbers, incidents and messages are written in one transaction.
 *
 * An incident that opens and closes within one evaluation, as after a stop, is kept but nobody is told: there is nothing left to act on.
 *
 * @returns how many states changed
 */
export async function evaluateAlarm(engine: Engine, alarm: Alarm): Promise<number> {
  const { signal, rule } = alarm.definition;
  const pick = requirePlainPick(signal);
  const metric = await metricByName(engine.db, pick.metric);
  if (metric === null) return 0;
  const step = stepOf(signal);
  const series = await seriesOfPick(engine.db, pick);
  const states = new Map((await seriesStates(engine.db, alarm.id)).map((state) => [state.seriesId, state]));
  await letGo(engine, alarm, series, [...states.keys()]);
  const due = await dueSeries(engine, metric, pick.statistic, series, states, step);
  if (due.length === 0) return 0;

  const first = Math.min(...due.map(({ from }) => from)) as Instant;
  const last = Math.max(...due.map(({ to }) => to)) as Instant;
  const span = range(before(first, times(rule.window.of - 1, step)), last);
  const frame = await frameOf(
    engine,
    alarm,
    due.map(({ series: one }) => one),
    span,
    step
  );
  const changed = await engine.db.transaction(async (within) => {
    const open = new Map(
      (await openIncidentsOfAlarm(within, alarm.id)).map((incident) => [incident.seriesId, incident])
    );
    const kept: AlarmSeries[] = [];
    let count = 0;
    for (const [index, one] of due.entries()) {
      const column = frame.columns[index] as Frame['columns'][number];
      const judged = judgeCells(column.values, rule, one.state, cellIndex(frame, one.from), cellIndex(frame, one.to));
      await applyChanges(engine, within, alarm, metric, one, frame, column, judged, open.get(one.series.id) ?? null);
      const end = judged.at(-1);
      kept.push({
        alarmId: alarm.id,
        accountId: one.series.accountId,
        seriesId: one.series.id,
        state: end?.to ?? one.state,
        since: end ? cellStart(frame.grid, end.index + 1) : one.since,
        judgedUntil: one.to
      });
      count += judged.length;
    }
    await keepStates(within, kept);
    return count;
  });
  if (changed > 0) engine.changes.tell('alarm', { alarmId: alarm.id });
  return changed;
}

/** The values of some series of an alarm, in their order. */
interface Frame {
  readonly grid: Grid;
  readonly columns: readonly { readonly values: Float64Array }[];
}

async function frameOf(
  { store, clock }: Engine,
  { id, definition: { signal } }: Alarm,
  series: readonly Series[],
  span: Range,
  step: Duration
): Promise<Frame> {
  const { name } = requirePlainPick(signal);
  const worked = await store.samples.evaluate(
    workOf({ signal, series: { [name]: series }, notes: [] }, clock.now()),
    span,
    step
  );
  if (worked.kind === 'fault') throw new Error(`alarm ${id} cannot be worked out: ${worked.message}`);
  return { grid: worked.grid, columns: worked.rows[0]?.columns ?? [] };
}

const cellIndex = ({ grid }: Frame, at: Instant): number => Math.round((at - grid.start) / grid.step);

/** Series that have complete cells not judged yet. A new series begins with its newest complete cell, as one does whose alarm was changed. */
async function dueSeries(
  { db, clock, store }: Engine,
  metric: Metric,
  statistic: Statistic,
  series: readonly Series[],
  states: ReadonlyMap<number, AlarmSeries>,
  step: Duration
): Promise<Due[]> {
  const now = clock.now();
  const collections = await allCollections(db);
  const newest = await store.samples.newest(series.map(({ id }) => id));
  return series.flatMap((one, index) => {
    const collection = collections.find(
      ({ accountId, service }) => accountId === one.accountId && service === one.service
    );
    const waits = waitsForNext(statistic, one.kind, metric.samplingMs);
    const to = completeUntil(
      {
        now,
        newest: (newest[index] ?? null) as Instant | null,
        sampling: duration(metric.samplingMs - waits),
        delay: duration(metric.delayMs + waits),
        askedUntil: collection?.pulledUntil ?? null,
        failing: collection !== undefined && collection.lastError !== null
      },
      step
    );
    const known = states.get(one.id);
    const begun = known !== undefined && known.judgedUntil > 0 && known.judgedUntil <= now; // one in the future is a clock that was set back
    const newestCell = before(to, step);
    const from = begun
      ? (Math.max(Math.ceil(known.judgedUntil / step) * step, before(to, longestCatchUp)) as Instant)
      : newestCell;
    if (to <= 0 || from >= to) return [];
    return [{ series: one, state: known?.state ?? 'indeterminate', since: known?.since ?? from, from, to }];
  });
}

/** Writes the changes of one series: evidence, incidents opened and closed, their peaks, and what people are told. */
async function applyChanges(
  engine: Engine,
  within: Queryable,
  alarm: Alarm,
  metric: Metric,
  { series, from, to }: Due,
  frame: Frame,
  { values }: Frame['columns'][number],
  changes: readonly Change[],
  openBefore: { readonly id: number; readonly peak: number | null } | null
): Promise<void> {
  const { rule, severity } = alarm.definition;
  const ids = { alarmId: alarm.id, accountId: series.accountId, seriesId: series.id };
  let open: OpenIncident | null = openBefore && {
    ...openBefore,
    fresh: false,
    firstCell: cellIndex(frame, from),
    value: NaN
  };

  for (const change of changes) {
    const at = cellStart(frame.grid, change.index + 1);
    const value = values[change.index] as number;
    let incidentId = open?.id ?? null;
    if (change.to === 'raised' && open === null) {
      incidentId = await openIncident(within, { ...ids, severity, openedAt: at, peak: null });
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
      if (!open.fresh)
        await tellOfIncident(engine, within, alarm, metric, { incidentId: open.id, closedAt: at, value, peak });
      open = null;
    }
    await noteChange(within, {
      ...ids,
      incidentId,
      at,
      from: change.from,
      to: change.to,
      evidence: evidenceOf(frame, values, change, alarm)
    });
  }
  if (open === null) return;
  const peak = await keepPeak(within, open, values, cellIndex(frame, to) - 1, rule.condition);
  if (open.fresh)
    await tellOfIncident(engine, within, alarm, metric, {
      incidentId: open.id,
      closedAt: null,
      value: open.value,
      peak
    });
}

interface OpenIncident {
  readonly id: number;
  readonly peak: number | null;
  /** Opened by this evaluation: nobody has been told yet. */
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

function evidenceOf(
  { grid }: Frame,
  values: Float64Array,
  { index, met, missing }: Change,
  { definition: { rule } }: Alarm
): Evidence {
  const first = Math.max(0, index - rule.window.of + 1);
  const window = Array.from(values.subarray(first, index + 1), (value) => (Number.isNaN(value) ? null : value));
  return { start: cellStart(grid, first), step: grid.step, values: window, met, missing, rule };
}

/** Forgets series that the alarm no longer watches, and closes what they had open. */
async function letGo(
  { db, clock, changes }: Engine,
  alarm: Alarm,
  watched: readonly Series[],
  known: readonly number[]
): Promise<void> {
  const gone = known.filter((id) => !watched.some((series) => series.id === id));
  if (gone.length === 0) return;
  await db.transaction(async (within) => {
    for (const { id, seriesId } of await openIncidentsOfAlarm(within, alarm.id))
      if (gone.includes(seriesId)) await closeIncident(within, id, clock.now());
    await dropSeries(within, alarm.id, gone);
  });
  changes.tell('alarm', { alarmId: alarm.id });
}
