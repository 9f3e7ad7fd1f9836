// alarms, alarm_series, alarm_history
import { alarmForm, type AlarmDefinition, type Severity, type State } from '$lib/core/alarm';
import { readableOf, readStored, unreadableOf, writeStored } from '$lib/core/forms/stored';
import { isRefused, type Problem } from '$lib/core/problem/problem';
import type { Labels } from '$lib/core/signal';
import { forgetRemovalOf } from '../removals/removals';
import { before, day, times, type Instant, type Range } from '$lib/core/time';
import { oneRow, type Queryable } from '../db/pool';
import { noteVersion } from './versions';
import { wakeAlarm } from './alarm-work';

export interface Alarm {
  readonly id: number;
  readonly definition: AlarmDefinition;
  /** Counts its definitions, from 1. */
  readonly version: number;
  readonly createdAt: Instant;
  readonly createdBy: string;
  readonly changedAt: Instant;
  readonly changedBy: string;
  /** Why it cannot be judged at present; null when it can. */
  readonly lastError: AlarmError | null;
}

/** Why an alarm cannot be judged. */
export interface AlarmError {
  readonly message: string;
  readonly remedy: string;
  readonly since: Instant;
  /** When its channels were notified of it; null before. */
  readonly notifiedAt: Instant | null;
}

/** What an alarm watches: one series of what its signal yields. */
export interface Watched {
  /** Who it is among those of the alarm: the id of the stored series that it is, or its labels. */
  readonly key: string;
  readonly labels: Labels;
  /** The stored series that it is; null for what several make. */
  readonly seriesId: number | null;
  readonly accountId: number | null;
}

/** The state of one series of an alarm. */
export interface AlarmSeries extends Watched {
  readonly alarmId: number;
  readonly state: State;
  /** Of its incident; null when it has none. */
  readonly severity: Severity | null;
  readonly since: Instant;
}

type Row = Omit<Alarm, 'definition'> & { readonly name: string; readonly definition: unknown };
const columns = `id, name, definition, version, created_at as "createdAt", created_by as "createdBy", changed_at as "changedAt", changed_by as "changedBy", last_error as "lastError"`;

/** An alarm as it was stored. @throws Refusal when that cannot be read */
const fromRow = ({ name, definition, ...rest }: Row): Alarm => ({
  ...rest,
  definition: readStored(alarmForm, definition, name)
});

const allRows = (db: Queryable): Promise<Row[]> =>
  db.rows<Row>(`select ${columns} from alarms where removed_at is null order by name, id`);

/** Every alarm that can be read. */
export const allAlarms = async (db: Queryable): Promise<Alarm[]> => readableOf(await allRows(db), fromRow);

/** Keeps others from making and changing alarms until the transaction ends. */
export async function lockAlarms(within: Queryable): Promise<void> {
  await within.rows('lock table alarms in share row exclusive mode');
}

/** Why some alarms cannot be read. */
export const unreadableAlarms = async (db: Queryable): Promise<Problem[]> => unreadableOf(await allRows(db), fromRow);

export async function alarmById(db: Queryable, id: number): Promise<Alarm | null> {
  const [row] = await db.rows<Row>(`select ${columns} from alarms where id = $1 and removed_at is null`, [id]);
  return row ? fromRow(row) : null;
}

/** An alarm; null for one that cannot be read: it is named when Bussola starts, and on Watch. */
export async function readableAlarm(db: Queryable, id: number): Promise<Alarm | null> {
  try {
    return await alarmById(db, id);
  } catch (error) {
    if (isRefused(error, 'stored-unreadable')) return null;
    throw error;
  }
}

/** Makes an alarm, which is due to be judged at once. To be called in a transaction where others may read it. */
export async function insertAlarm(db: Queryable, definition: AlarmDefinition, by: string, at: Instant): Promise<Alarm> {
  const rows = await db.rows<Row>(
    `insert into alarms (name, definition, created_at, created_by, changed_at, changed_by)
     values ($1, $2, $3, $4, $3, $4)
     returning ${columns}`,
    [definition.name, writeStored(alarmForm, definition), at, by]
  );
  const alarm = fromRow(oneRow(rows));
  await noteVersion(db, alarm.id);
  await wakeAlarm(db, alarm.id);
  return alarm;
}

/**
 * Changes an alarm, which is due to be judged at once; series that it no longer watches lose their state then. To be called in a transaction.
 *
 * @param version that it has to have still; null for any
 * @returns null when there is no such alarm, or it has another version
 */
export async function changeAlarm(
  within: Queryable,
  id: number,
  definition: AlarmDefinition,
  by: string,
  at: Instant,
  version: number | null = null
): Promise<Alarm | null> {
  const [row] = await within.rows<Row>(
    `update alarms
     set name = $2, definition = $3, changed_at = $4, changed_by = $5, version = version + 1
     where id = $1 and removed_at is null and ($6::integer is null or version = $6)
     returning ${columns}`,
    [id, definition.name, writeStored(alarmForm, definition), at, by, version]
  );
  if (!row) return null;
  await noteVersion(within, id);
  await wakeAlarm(within, id);
  return fromRow(row);
}

/** A removed alarm can be had back for so long. */
export const removedFor = times(30, day);

/**
 * Removes an alarm with its states. Its incidents stay under its name, and end now; to be called in a transaction. It can be had back for a while, see {@link removedFor}.
 *
 * @returns whether there was one
 */
export async function removeAlarm(within: Queryable, id: number, at: Instant): Promise<boolean> {
  const removed = await within.rows(
    'update alarms set removed_at = $2 where id = $1 and removed_at is null returning id',
    [id, at]
  );
  if (removed.length === 0) return false;
  await within.rows(
    `with ended as (
       update incidents set closed_at = $2 where alarm_id = $1 and closed_at is null returning id, severity
     )
     insert into incident_events (incident_id, alarm_id, kind, at, recorded_at, severity)
     select id, $1, 'ended', $2, $2, severity from ended`,
    [id, at]
  );
  for (const table of ['alarm_series', 'alarm_work', 'alarm_history'])
    await within.rows(`delete from ${table} where alarm_id = $1`, [id]);
  return true;
}

/** Has a removed alarm back, which is judged anew; to be called in a transaction. @returns null when it is not among the removed ones any more */
export async function bringBackAlarm(within: Queryable, id: number): Promise<Alarm | null> {
  const [row] = await within.rows<Row>(
    `update alarms set removed_at = null where id = $1 and removed_at is not null returning ${columns}`,
    [id]
  );
  if (!row) return null;
  await forgetRemovalOf(within, 'alarms', id);
  await wakeAlarm(within, id);
  return fromRow(row);
}

/** Forgets alarms that were removed long enough ago. */
export async function forgetRemoved(db: Queryable, now: Instant): Promise<void> {
  await db.rows('delete from alarms where removed_at <= $1', [before(now, removedFor)]);
}

export async function seriesStates(db: Queryable, alarmId: number): Promise<AlarmSeries[]> {
  return db.rows<AlarmSeries>(
    `select alarm_id as "alarmId", key, labels, account_id as "accountId", series_id as "seriesId", state, severity, since
     from alarm_series
     where alarm_id = $1`,
    [alarmId]
  );
}

/** The states of what alarms watch of one resource. */
export const statesOfResource = (
  db: Queryable,
  { id, name, account }: { readonly id: number; readonly name: string; readonly account: string }
): Promise<{ alarmId: number; alarm: string; labels: Labels; state: State; since: Instant }[]> =>
  db.rows(
    `select alarm_id as "alarmId", alarms.name as alarm, alarm_series.labels, state, since
     from alarm_series
     join alarms on alarms.id = alarm_id
     left join series on series.account_id = alarm_series.account_id and series.id = alarm_series.series_id
     where series.resource_id = $1
       or (alarm_series.labels ->> 'resource' = $2 and coalesce(alarm_series.labels ->> 'account', $3) = $3)
     order by alarms.name`,
    [id, name, account]
  );

/** How many series of each alarm are in each state. */
export async function countStates(db: Queryable): Promise<{ alarmId: number; state: State; count: number }[]> {
  return db.rows(
    `select alarm_id as "alarmId", state, count(*)::integer as count from alarm_series group by alarm_id, state`
  );
}

/** The state of every series that an alarm watches, with its labels. */
export const watchedStates = (db: Queryable): Promise<{ alarmId: number; labels: Labels; state: State }[]> =>
  db.rows('select alarm_id as "alarmId", labels, state from alarm_series');

/** Writes the states of series that changed, all at once. */
export async function saveStates(db: Queryable, states: readonly AlarmSeries[]): Promise<void> {
  if (states.length === 0) return;
  await db.rows(
    `insert into alarm_series (alarm_id, key, labels, account_id, series_id, state, severity, since)
     select alarm_id, key, labels::jsonb, account_id, series_id, state, severity, since
     from unnest($1::integer[], $2::text[], $3::text[], $4::integer[], $5::integer[], $6::text[], $7::text[], $8::bigint[])
       as changed (alarm_id, key, labels, account_id, series_id, state, severity, since)
     on conflict (alarm_id, key) do update
     set labels = excluded.labels, state = excluded.state, severity = excluded.severity, since = excluded.since`,
    [
      states.map(({ alarmId }) => alarmId),
      states.map(({ key }) => key),
      states.map(({ labels }) => JSON.stringify(labels)),
      states.map(({ accountId }) => accountId),
      states.map(({ seriesId }) => seriesId),
      states.map(({ state }) => state),
      states.map(({ severity }) => severity),
      states.map(({ since }) => since)
    ]
  );
}

/** Why an alarm cannot be judged at present; null that it can. */
export async function noteAlarmError(db: Queryable, alarmId: number, error: Alarm['lastError']): Promise<void> {
  await db.rows('update alarms set last_error = $2 where id = $1', [alarmId, error && JSON.stringify(error)]);
}

/** Nobody can tell any more how the series of an alarm are. */
export async function makeIndeterminate(db: Queryable, alarmId: number, at: Instant): Promise<void> {
  await db.rows(
    `update alarm_series set state = 'indeterminate', since = $2 where alarm_id = $1 and state <> 'indeterminate'`,
    [alarmId, at]
  );
}

export async function dropSeries(db: Queryable, alarmId: number, keys: readonly string[]): Promise<void> {
  await db.rows('delete from alarm_series where alarm_id = $1 and key = any($2::text[])', [alarmId, keys]);
}

/** An alarm with the part of history that is still to be judged: [wantedFrom, judgedFrom). */
export interface HistoryToJudge {
  readonly alarm: Alarm;
  readonly wantedFrom: Instant;
  readonly judgedFrom: Instant;
  /** Whether nothing of it is judged yet: it ends where the engine began. */
  readonly isNewest: boolean;
}

/** Has an alarm judged over stored history, newest first. */
export async function wantHistory(db: Queryable, alarmId: number, { from, to }: Range): Promise<void> {
  await db.rows(
    `insert into alarm_history (alarm_id, wanted_from, judged_from, wanted_to)
     values ($1, $2, $3, $3)
     on conflict (alarm_id) do update
     set wanted_from = least(alarm_history.wanted_from, excluded.wanted_from)`,
    [alarmId, from, to]
  );
}

/** What is still to be judged, the alarm first that is least far back. */
export async function historyToJudge(db: Queryable): Promise<HistoryToJudge[]> {
  const rows = await db.rows<Row & { wantedFrom: Instant; judgedFrom: Instant; isNewest: boolean }>(
    `select ${columns}, wanted_from as "wantedFrom", judged_from as "judgedFrom", coalesce(judged_from = wanted_to, false) as "isNewest"
     from alarm_history
     join alarms on alarms.id = alarm_id
     where judged_from > wanted_from
     order by judged_from desc, alarm_id`
  );
  return readableOf(rows, ({ wantedFrom, judgedFrom, isNewest, ...alarm }) => ({
    alarm: fromRow(alarm),
    wantedFrom,
    judgedFrom,
    isNewest
  }));
}

/** Notes that a span of an alarm's history is judged. @returns false when another process has judged it meanwhile */
export async function noteHistoryJudged(db: Queryable, alarmId: number, { from, to }: Range): Promise<boolean> {
  const rows = await db.rows(
    'update alarm_history set judged_from = $2 where alarm_id = $1 and judged_from = $3 returning alarm_id',
    [alarmId, from, to]
  );
  return rows.length > 0;
}
