// incidents, state_changes
import { evidenceForm, type Evidence, type KnownPeriod, type Severity, type State } from '$lib/core/alarm';
import type { Closing } from '$lib/core/incident';
import { readableOf, readStored, unreadableOf } from '$lib/core/forms/stored';
import type { Problem } from '$lib/core/problem/problem';
import { subjectOf, type Labels } from '$lib/core/signal';
import type { Instant, Range } from '$lib/core/time';
import type { Queryable } from '../db/pool';

export interface StateChange {
  readonly at: Instant;
  readonly from: State;
  readonly to: State;
  /** Of the incident before and after; null when there was none. */
  readonly fromSeverity: Severity | null;
  readonly toSeverity: Severity | null;
  readonly evidence: Evidence;
}

export interface Incident {
  readonly id: number;
  /** Null when the alarm has been removed since, and of what events raised. */
  readonly alarmId: number | null;
  /** The rule that raised it by events; null of what an alarm raised. */
  readonly eventRuleId: number | null;
  /** What the first of these events said; empty for none. */
  readonly eventText: string;
  /** The name of its alarm or rule. */
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
  /** Its severity now; of one that is closed, the gravest that it had. */
  readonly severity: Severity;
  readonly openedAt: Instant;
  /** When it was clear, or a person closed it; null while it is open. */
  readonly closedAt: Instant | null;
  /** When its numbers were clear again; null while they raise it, also when a person has closed it. */
  readonly clearAt: Instant | null;
  /** How it ended, and who says so; null while nobody has. */
  readonly outcome: (Closing & { readonly at: Instant; readonly by: string }) | null;
  /** Found in history when the alarm was switched on: nobody was notified. */
  readonly judgedAfterwards: boolean;
  /** The value farthest beyond the threshold so far; null when it was never known. */
  readonly peak: number | null;
  /** When somebody noted that they look after it, and who; null before. */
  readonly acknowledgedAt: Instant | null;
  readonly acknowledgedBy: string | null;
  /** The shelving that holds messages about it back; null for none. */
  readonly shelvingId: number | null;
}

/** Incidents with where they are; a condition follows. */
export const incidentRows = `
  select incidents.id, alarms.id as "alarmId", event_rule_id as "eventRuleId", event_text as "eventText", coalesce(alarms.name, event_rules.definition ->> 'name', incidents.alarm_name) as alarm, incidents.key, incidents.labels, series_id as "seriesId",
    coalesce(resources.name, incidents.labels ->> 'resource', '') as resource, resources.id as "resourceId",
    coalesce(accounts.name, incidents.labels ->> 'account', '') as account,
    coalesce(resources.region, incidents.labels ->> 'region', '') as region,
    coalesce(resources.service, incidents.labels ->> 'service', '') as service,
    coalesce(series.metric, incidents.metric) as metric, incidents.unit,
    case when incidents.ended_at is null then incidents.severity else incidents.gravest end as severity, opened_at as "openedAt", incidents.ended_at as "closedAt", closed_at as "clearAt",
    case when outcome is not null then jsonb_build_object('outcome', outcome, 'text', outcome_text, 'at', outcome_at, 'by', outcome_by) end as outcome, judged_afterwards as "judgedAfterwards", peak,
    acknowledged_at as "acknowledgedAt", acknowledged_by as "acknowledgedBy", shelving_id as "shelvingId"
  from incidents
  left join alarms on alarms.id = incidents.alarm_id and alarms.removed_at is null
  left join event_rules on event_rules.id = incidents.event_rule_id
  left join accounts on accounts.id = incidents.account_id
  left join series on series.account_id = incidents.account_id and series.id = incidents.series_id
  left join resources on resources.account_id = incidents.account_id and resources.id = coalesce(series.resource_id, incidents.resource_id)`;

/** An incident with what it is on, in words. */
export const withSubject = (row: Omit<Incident, 'subject'>): Incident => ({
  ...row,
  subject: subjectOf(row.resource === '' ? row.labels : { ...row.labels, resource: row.resource }, row.alarm)
});

/** An incident as judging goes on with it. */
export interface KnownIncident {
  readonly id: number;
  readonly key: string;
  readonly severity: Severity;
  readonly gravest: Severity;
  readonly openedAt: Instant;
  readonly closedAt: Instant | null;
  readonly peak: number | null;
  readonly unit: string | null;
}
const known = `id, key, severity, gravest, opened_at as "openedAt", closed_at as "closedAt", peak, unit`;

/** The open incidents of an alarm. */
export const openIncidentsOfAlarm = (db: Queryable, alarmId: number): Promise<KnownIncident[]> =>
  db.rows(`select ${known} from incidents where alarm_id = $1 and closed_at is null`, [alarmId]);

/** The open incidents of an alarm that were raised by a moment and that nobody looks after, the oldest first; none that was found in history. */
export async function unattendedOfAlarm(db: Queryable, alarmId: number, raisedBy: Instant): Promise<number[]> {
  const rows = await db.rows<{ id: number }>(
    `select id
     from incidents
     where alarm_id = $1 and opened_at <= $2 and ended_at is null and acknowledged_at is null and not judged_afterwards
     order by opened_at, id
     limit 5000`,
    [alarmId, raisedBy]
  );
  return rows.map(({ id }) => id);
}

/** Incidents of an alarm that were open at any moment of a range, its ends included, the earliest first. */
export const incidentsOfAlarmIn = (db: Queryable, alarmId: number, { from, to }: Range): Promise<KnownIncident[]> =>
  db.rows(
    `select ${known}
     from incidents
     where alarm_id = $1 and opened_at <= $3 and (closed_at is null or closed_at >= $2)
     order by opened_at, id`,
    [alarmId, from, to]
  );

/** Incidents that people know of on what an alarm watches, since a moment: its own, and those of other alarms on the same stored series; none that was judged afterwards. */
export async function knownIncidents(
  db: Queryable,
  alarmId: number | null,
  seriesIds: readonly number[],
  since: Instant
): Promise<KnownPeriod[]> {
  const rows = await db.rows<Omit<KnownPeriod, 'subject'> & { labels: Labels; alarm: string }>(
    `select id, labels, alarm_name as alarm, gravest as severity, opened_at as "from", closed_at as "to"
     from incidents
     where (alarm_id = $1 or series_id = any($2::integer[]))
       and not judged_afterwards
       and (closed_at is null or closed_at > $3)
     order by opened_at desc
     limit 500`,
    [alarmId, seriesIds, since]
  );
  return rows.map(({ labels, alarm, ...period }) => ({ ...period, subject: subjectOf(labels, alarm) }));
}

/** The spans of incidents of stored series that were over by the end of a range and not before it began, by series. */
export async function pastIncidents(
  db: Queryable,
  seriesIds: readonly number[],
  { from, to }: Range
): Promise<ReadonlyMap<number, Range[]>> {
  const rows = await db.rows<Range & { seriesId: number }>(
    `select series_id as "seriesId", opened_at as "from", closed_at as "to"
     from incidents
     where series_id = any($1::integer[]) and closed_at > $2 and closed_at <= $3 and opened_at < closed_at`,
    [seriesIds, from, to]
  );
  const spans = new Map<number, Range[]>();
  for (const { seriesId, ...span } of rows) spans.set(seriesId, [...(spans.get(seriesId) ?? []), span]);
  return spans;
}

export async function incidentById(db: Queryable, id: number): Promise<Incident | null> {
  const rows = await db.rows<Omit<Incident, 'subject'>>(`${incidentRows} where incidents.id = $1`, [id]);
  return rows[0] ? withSubject(rows[0]) : null;
}

/** Incidents of some ids, in the order of their ids. */
export async function incidentsByIds(db: Queryable, ids: readonly number[]): Promise<Incident[]> {
  const rows = await db.rows<Omit<Incident, 'subject'>>(
    `${incidentRows} where incidents.id = any($1::integer[]) order by incidents.id`,
    [ids]
  );
  return rows.map(withSubject);
}

/** Incidents in the order in which they are wanted; without those that are gone. */
export async function incidentsInOrder(db: Queryable, wanted: readonly { readonly id: number }[]): Promise<Incident[]> {
  const ids = wanted.map(({ id }) => id);
  const byId = new Map((await incidentsByIds(db, ids)).map((incident) => [incident.id, incident]));
  return ids.flatMap((id) => byId.get(id) ?? []);
}

/** Notes who looks after those of several incidents that are open and that nobody looks after. @returns these, with their alarms */
export const setAllAcknowledged = (
  within: Queryable,
  ids: readonly number[],
  { at, by }: { readonly at: Instant; readonly by: string }
): Promise<{ id: number; alarmId: number | null }[]> =>
  within.rows(
    `update incidents
     set acknowledged_at = $2, acknowledged_by = $3
     where id = any($1::integer[]) and incidents.ended_at is null and acknowledged_at is null
     returning id, alarm_id as "alarmId"`,
    [ids, at, by]
  );

/** Notes who looks after an open incident, whoever did so before. */
export async function giveTo(
  within: Queryable,
  id: number,
  { at, by }: { readonly at: Instant; readonly by: string }
): Promise<void> {
  await within.rows(
    'update incidents set acknowledged_at = coalesce(acknowledged_at, $2), acknowledged_by = $3 where id = $1 and incidents.ended_at is null',
    [id, at, by]
  );
}

/** Notes who looks after an open incident, null for nobody. @returns false when it is so already, or has closed meanwhile */
export async function setAcknowledged(
  within: Queryable,
  id: number,
  who: { readonly at: Instant; readonly by: string } | null
): Promise<boolean> {
  const rows = await within.rows(
    `update incidents
     set acknowledged_at = $2::bigint, acknowledged_by = $3
     where id = $1 and incidents.ended_at is null and (acknowledged_at is null) = ($2::bigint is not null)
     returning id`,
    [id, who?.at ?? null, who?.by ?? null]
  );
  return rows.length > 0;
}

export async function changesOfIncident(db: Queryable, incidentId: number): Promise<StateChange[]> {
  const rows = await db.rows<ChangeRow>(`${changeRows} where incident_id = $1 order by at, id`, [incidentId]);
  return readableOf(rows, changeFrom);
}

/** The changes of state of an alarm's series after a moment, in order, without what they were decided on. */
export const changesSince = (
  db: Queryable,
  alarmId: number,
  from: Instant
): Promise<{ key: string; at: Instant; from: State; to: State }[]> =>
  db.rows(
    `select key, at, from_state as "from", to_state as "to"
     from state_changes
     where alarm_id = $1 and at > $2
     order by at, id`,
    [alarmId, from]
  );

/** The last change of state of a series of an alarm up to a moment; null when there was none. */
export async function changeUpTo(
  db: Queryable,
  alarmId: number,
  key: string,
  at: Instant
): Promise<(StateChange & { readonly incidentId: number | null }) | null> {
  const rows = await db.rows<ChangeRow & { incidentId: number | null }>(
    `select incident_id as "incidentId", changes.*
     from (${changeRows} where alarm_id = $1 and key = $2 and at <= $3 order by at desc, id desc limit 1) as changes
     join state_changes on state_changes.id = changes.id`,
    [alarmId, key, at]
  );
  const [row] = rows;
  return row ? { ...changeFrom(row), incidentId: row.incidentId } : null;
}

/** What a series of an alarm was before its first change of state after a moment; null when there was none. */
export async function stateBeforeNext(
  db: Queryable,
  alarmId: number,
  key: string,
  at: Instant
): Promise<{ readonly state: State; readonly severity: Severity | null } | null> {
  const [row] = await db.rows<{ state: State; severity: Severity | null }>(
    `select from_state as state, from_severity as severity
     from state_changes
     where alarm_id = $1 and key = $2 and at > $3
     order by at, id
     limit 1`,
    [alarmId, key, at]
  );
  return row ?? null;
}

/** Why the evidence of some changes of state cannot be read; of the newest thousand. */
export const unreadableEvidence = async (db: Queryable): Promise<Problem[]> =>
  unreadableOf(await db.rows<ChangeRow>(`${changeRows} order by id desc limit 1000`), changeFrom);

type ChangeRow = Omit<StateChange, 'evidence'> & { readonly id: number; readonly evidence: unknown };
const changeRows = `select id, at, from_state as "from", to_state as "to", from_severity as "fromSeverity", to_severity as "toSeverity", evidence from state_changes`;
const changeFrom = ({ id, evidence, ...rest }: ChangeRow): StateChange => ({
  ...rest,
  evidence: readStored(evidenceForm, evidence, `of change ${id}`)
});
