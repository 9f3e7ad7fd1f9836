// incidents, state_changes
import { evidenceForm, severities, type Evidence, type Severity, type State } from '$lib/core/alarm';
import { readableOf, readStored, unreadableOf, writeStored } from '$lib/core/forms/stored';
import type { Problem } from '$lib/core/problem/problem';
import { subjectOf, type Labels } from '$lib/core/signal';
import type { Instant, Range } from '$lib/core/time';
import { oneRow, type Queryable } from '../db/pool';
import type { Watched } from '../alarms/alarms';

export interface StateChange {
  readonly at: Instant;
  readonly from: State;
  readonly to: State;
  readonly evidence: Evidence;
}

export interface Incident {
  readonly id: number;
  /** Null when the alarm has been removed since. */
  readonly alarmId: number | null;
  readonly alarm: string;
  /** Which series of the alarm it is, see {@link Watched}. */
  readonly key: string;
  readonly labels: Labels;
  readonly seriesId: number | null;
  /** The parts of where it is; empty for what has none, such as a sum over all accounts. */
  readonly account: string;
  readonly region: string;
  readonly service: string;
  readonly resource: string;
  readonly resourceId: number | null;
  /** The metric of the stored series that it is; null for what several make. */
  readonly metric: string | null;
  /** UCUM code of its numbers; null for that of its metric. */
  readonly unit: string | null;
  /** What it is on, in words: its resource, or its labels, or the alarm's name for what has none. */
  readonly subject: string;
  readonly severity: Severity;
  readonly openedAt: Instant;
  readonly closedAt: Instant | null;
  /** Found in history when the alarm was switched on: nobody was notified. */
  readonly judgedAfterwards: boolean;
  /** The value farthest beyond the threshold so far; null when it was never known. */
  readonly peak: number | null;
}

const select = `
  select incidents.id, alarm_id as "alarmId", coalesce(alarms.name, incidents.alarm_name) as alarm, incidents.key, incidents.labels, series_id as "seriesId",
    coalesce(resources.name, incidents.labels ->> 'resource', '') as resource, resources.id as "resourceId",
    coalesce(accounts.name, incidents.labels ->> 'account', '') as account,
    coalesce(resources.region, incidents.labels ->> 'region', '') as region,
    coalesce(resources.service, incidents.labels ->> 'service', '') as service,
    coalesce(series.metric, incidents.metric) as metric, incidents.unit, incidents.severity, opened_at as "openedAt", closed_at as "closedAt", judged_afterwards as "judgedAfterwards", peak
  from incidents
  left join alarms on alarms.id = incidents.alarm_id
  left join accounts on accounts.id = incidents.account_id
  left join series on series.account_id = incidents.account_id and series.id = incidents.series_id
  left join resources on resources.account_id = series.account_id and resources.id = series.resource_id`;

const withSubject = (row: Omit<Incident, 'subject'>): Incident => ({
  ...row,
  subject: subjectOf(row.resource === '' ? row.labels : { ...row.labels, resource: row.resource }, row.alarm)
});

export async function openIncident(
  db: Queryable,
  incident: Watched & {
    readonly alarmId: number;
    readonly unit: string;
    readonly severity: Severity;
    readonly openedAt: Instant;
    readonly judgedAfterwards?: boolean;
  }
): Promise<number> {
  const { alarmId, key, labels, accountId, seriesId, unit, severity, openedAt, judgedAfterwards = false } = incident;
  const rows = await db.rows<{ id: number }>(
    `insert into incidents (alarm_id, alarm_name, key, labels, account_id, series_id, metric, unit, severity, opened_at, judged_afterwards)
     select $1::integer, (select name from alarms where id = $1), $2, $3::jsonb, $4, $5, (select metric from series where account_id = $4 and id = $5), $6, $7, $8, $9
     returning id`,
    [alarmId, key, JSON.stringify(labels), accountId, seriesId, unit, severity, openedAt, judgedAfterwards]
  );
  return oneRow(rows).id;
}

export async function closeIncident(db: Queryable, id: number, closedAt: Instant): Promise<void> {
  await db.rows('update incidents set closed_at = $2 where id = $1 and closed_at is null', [id, closedAt]);
}

export async function notePeak(db: Queryable, id: number, peak: number): Promise<void> {
  await db.rows('update incidents set peak = $2 where id = $1', [id, peak]);
}

/** Open incidents of an alarm: id and peak of each series that has one. */
export async function openIncidentsOfAlarm(
  db: Queryable,
  alarmId: number
): Promise<{ id: number; key: string; peak: number | null }[]> {
  return db.rows('select id, key, peak from incidents where alarm_id = $1 and closed_at is null', [alarmId]);
}

/** The first incident of a series of an alarm that was open at any moment of a range, its ends included; null when there is none. */
export async function incidentWithin(
  db: Queryable,
  alarmId: number,
  key: string,
  { from, to }: Range
): Promise<{ id: number; openedAt: Instant; peak: number | null } | null> {
  const rows = await db.rows<{ id: number; openedAt: Instant; peak: number | null }>(
    `select id, opened_at as "openedAt", peak
     from incidents
     where alarm_id = $1 and key = $2 and opened_at <= $4 and (closed_at is null or closed_at >= $3)
     order by opened_at, id
     limit 1`,
    [alarmId, key, from, to]
  );
  return rows[0] ?? null;
}

/** An incident turns out to have begun earlier. */
export async function moveOpening(db: Queryable, id: number, openedAt: Instant): Promise<void> {
  await db.rows('update incidents set opened_at = $2 where id = $1', [id, openedAt]);
}

/** Incidents that were open at any moment of a range, newest first. */
export async function incidentsIn(db: Queryable, { from, to }: Range, most = 500): Promise<Incident[]> {
  const rows = await db.rows<Omit<Incident, 'subject'>>(
    `${select} where opened_at < $2 and (closed_at is null or closed_at >= $1) order by opened_at desc limit $3`,
    [from, to, most]
  );
  return rows.map(withSubject);
}

/** The order in which open incidents are looked at: the gravest first, of these the oldest. */
const gravestFirst = `array_position(array[${severities
  .toReversed()
  .map((one) => `'${one}'`)
  .join(', ')}], incidents.severity), opened_at, incidents.id`;

/** Incidents that are open, however old, the gravest first. */
export async function openIncidents(db: Queryable, most: number, after = 0): Promise<Incident[]> {
  const rows = await db.rows<Omit<Incident, 'subject'>>(
    `${select} where closed_at is null order by ${gravestFirst} limit $1 offset $2`,
    [most, after]
  );
  return rows.map(withSubject);
}

/** How many incidents of each severity are open on each service, and on each resource; all of them. */
export interface OpenCount {
  readonly service: string;
  readonly account: string;
  readonly resource: string;
  readonly severity: Severity;
  readonly count: number;
}

export const countOpen = (db: Queryable): Promise<OpenCount[]> =>
  db.rows<OpenCount>(
    `select service, account, resource, severity, count(*)::integer as count
     from (${select} where closed_at is null) as open
     group by service, account, resource, severity`
  );

export async function incidentById(db: Queryable, id: number): Promise<Incident | null> {
  const rows = await db.rows<Omit<Incident, 'subject'>>(`${select} where incidents.id = $1`, [id]);
  return rows[0] ? withSubject(rows[0]) : null;
}

export async function noteChange(
  db: Queryable,
  change: StateChange & { readonly alarmId: number; readonly key: string; readonly incidentId: number | null }
): Promise<void> {
  await db.rows(
    `insert into state_changes (alarm_id, key, incident_id, at, from_state, to_state, evidence)
     values ($1, $2, $3, $4, $5, $6, $7)`,
    [
      change.alarmId,
      change.key,
      change.incidentId,
      change.at,
      change.from,
      change.to,
      writeStored(evidenceForm, change.evidence)
    ]
  );
}

export async function changesOfIncident(db: Queryable, incidentId: number): Promise<StateChange[]> {
  const rows = await db.rows<ChangeRow>(`${changeRows} where incident_id = $1 order by at, id`, [incidentId]);
  return readableOf(rows, changeFrom);
}

/** Why the evidence of some changes of state cannot be read; of the newest thousand. */
export const unreadableEvidence = async (db: Queryable): Promise<Problem[]> =>
  unreadableOf(await db.rows<ChangeRow>(`${changeRows} order by id desc limit 1000`), changeFrom);

type ChangeRow = Omit<StateChange, 'evidence'> & { readonly id: number; readonly evidence: unknown };
const changeRows = `select id, at, from_state as "from", to_state as "to", evidence from state_changes`;
const changeFrom = ({ id, evidence, ...rest }: ChangeRow): StateChange => ({
  ...rest,
  evidence: readStored(evidenceForm, evidence, `of change ${id}`)
});
