// alarms, alarm_series
import { alarmForm, type AlarmDefinition, type State } from '$lib/core/alarm';
import { readableOf, readStored, unreadableOf, writeStored } from '$lib/core/forms/stored';
import type { Problem } from '$lib/core/problem/problem';
import type { Labels } from '$lib/core/signal';
import type { Instant, Range } from '$lib/core/time';
import { oneRow, type Queryable } from '../db/pool';

export interface Alarm {
  readonly id: number;
  readonly definition: AlarmDefinition;
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
  readonly since: Instant;
  /** Every cell that ends by here has been judged. */
  readonly judgedUntil: Instant;
}

type Row = Omit<Alarm, 'definition'> & { readonly name: string; readonly definition: unknown };
const columns = `id, name, definition, created_at as "createdAt", created_by as "createdBy", changed_at as "changedAt", changed_by as "changedBy", last_error as "lastError"`;

/** An alarm as it was stored. @throws Refusal when that cannot be read */
const fromRow = ({ name, definition, ...rest }: Row): Alarm => ({
  ...rest,
  definition: readStored(alarmForm, definition, name)
});

const allRows = (db: Queryable): Promise<Row[]> => db.rows<Row>(`select ${columns} from alarms order by name, id`);

/** Every alarm that can be read. */
export const allAlarms = async (db: Queryable): Promise<Alarm[]> => readableOf(await allRows(db), fromRow);

/** Why some alarms cannot be read. */
export const unreadableAlarms = async (db: Queryable): Promise<Problem[]> => unreadableOf(await allRows(db), fromRow);

export async function alarmById(db: Queryable, id: number): Promise<Alarm | null> {
  const [row] = await db.rows<Row>(`select ${columns} from alarms where id = $1`, [id]);
  return row ? fromRow(row) : null;
}

export async function insertAlarm(db: Queryable, definition: AlarmDefinition, by: string, at: Instant): Promise<Alarm> {
  const rows = await db.rows<Row>(
    `insert into alarms (name, definition, created_at, created_by, changed_at, changed_by)
     values ($1, $2, $3, $4, $3, $4)
     returning ${columns}`,
    [definition.name, writeStored(alarmForm, definition), at, by]
  );
  return fromRow(oneRow(rows));
}

/** Changes an alarm; series it no longer watches lose their state with the next evaluation. */
export async function changeAlarm(
  db: Queryable,
  id: number,
  definition: AlarmDefinition,
  by: string,
  at: Instant
): Promise<Alarm | null> {
  const [row] = await db.rows<Row>(
    `update alarms
     set name = $2, definition = $3, changed_at = $4, changed_by = $5
     where id = $1
     returning ${columns}`,
    [id, definition.name, writeStored(alarmForm, definition), at, by]
  );
  return row ? fromRow(row) : null;
}

/**
 * Removes an alarm with its states. Its incidents stay under its name, and end now; to be called in a transaction.
 *
 * @returns whether there was one
 */
export async function removeAlarm(within: Queryable, id: number, at: Instant): Promise<boolean> {
  await within.rows('update incidents set closed_at = $2 where alarm_id = $1 and closed_at is null', [id, at]);
  return (await within.rows('delete from alarms where id = $1 returning id', [id])).length > 0;
}

export async function seriesStates(db: Queryable, alarmId: number): Promise<AlarmSeries[]> {
  return db.rows<AlarmSeries>(
    `select alarm_id as "alarmId", key, labels, account_id as "accountId", series_id as "seriesId", state, since, judged_until as "judgedUntil"
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

/** Writes the states after an evaluation, all at once. */
export async function saveStates(db: Queryable, states: readonly AlarmSeries[]): Promise<void> {
  await db.rows(
    `insert into alarm_series (alarm_id, key, labels, account_id, series_id, state, since, judged_until)
     select alarm_id, key, labels::jsonb, account_id, series_id, state, since, judged_until
     from unnest($1::integer[], $2::text[], $3::text[], $4::integer[], $5::integer[], $6::text[], $7::bigint[], $8::bigint[])
       as kept (alarm_id, key, labels, account_id, series_id, state, since, judged_until)
     on conflict (alarm_id, key) do update
     set labels = excluded.labels, state = excluded.state, since = excluded.since, judged_until = excluded.judged_until`,
    [
      states.map(({ alarmId }) => alarmId),
      states.map(({ key }) => key),
      states.map(({ labels }) => JSON.stringify(labels)),
      states.map(({ accountId }) => accountId),
      states.map(({ seriesId }) => seriesId),
      states.map(({ state }) => state),
      states.map(({ since }) => since),
      states.map(({ judgedUntil }) => judgedUntil)
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

/** Lets the next evaluation judge the newest complete cell again, as after a change of the alarm. */
export async function forgetJudged(db: Queryable, alarmId: number): Promise<void> {
  await db.rows('update alarm_series set judged_until = 0 where alarm_id = $1', [alarmId]);
}

/** An alarm with the part of history that is still to be judged: [wantedFrom, judgedFrom). */
export interface HistoryToJudge {
  readonly alarm: Alarm;
  readonly wantedFrom: Instant;
  readonly judgedFrom: Instant;
}

/** Has an alarm judged over stored history, newest first. */
export async function wantHistory(db: Queryable, alarmId: number, { from, to }: Range): Promise<void> {
  await db.rows(
    `insert into alarm_history (alarm_id, wanted_from, judged_from)
     values ($1, $2, $3)
     on conflict (alarm_id) do update
     set wanted_from = least(alarm_history.wanted_from, excluded.wanted_from)`,
    [alarmId, from, to]
  );
}

/** What is still to be judged, the alarm first that is least far back. */
export async function historyToJudge(db: Queryable): Promise<HistoryToJudge[]> {
  const rows = await db.rows<Row & { wantedFrom: Instant; judgedFrom: Instant }>(
    `select ${columns}, wanted_from as "wantedFrom", judged_from as "judgedFrom"
     from alarm_history
     join alarms on alarms.id = alarm_id
     where judged_from > wanted_from
     order by judged_from desc, alarm_id`
  );
  return readableOf(rows, ({ wantedFrom, judgedFrom, ...alarm }) => ({
    alarm: fromRow(alarm),
    wantedFrom,
    judgedFrom
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
