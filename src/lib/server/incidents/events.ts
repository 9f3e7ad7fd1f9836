// incident_events
import type { Severity } from '$lib/core/alarm';
import type { Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';
import { graverIsMore } from './severity-order';

/** Something that happened to an incident, or that an alarm cannot be judged. */
export interface IncidentEvent {
  readonly id: number;
  /** Null of an alarm that cannot be judged. */
  readonly incidentId: number | null;
  /** Null when the alarm has been removed since. */
  readonly alarmId: number | null;
  /** `ended` is one whose series is not watched any more, `rerouted` one whose route was removed, `unreached` one of which nobody could be notified; of a `shelved` one messages are held back, a `dismissed` one was closed by a person while it was raised. */
  readonly kind:
    | 'opened'
    | 'severity'
    | 'closed'
    | 'ended'
    | 'unjudged'
    | 'acknowledged'
    | 'unacknowledged'
    | 'rerouted'
    | 'unreached'
    | 'shelved'
    | 'unshelved'
    | 'dismissed'
    | 'outcome'
    | 'reopened';
  /** When it happened by the data. */
  readonly at: Instant;
  readonly recordedAt: Instant;
  readonly severity: Severity | null;
  /** The value of the deciding cell; null when it had none. */
  readonly value: number | null;
  readonly peak: number | null;
  /** Whose doing it was; null for what the engine found. */
  readonly by: string | null;
  /** What that person wrote with it. */
  readonly text: string | null;
}

const columns = `id, incident_id as "incidentId", alarm_id as "alarmId", kind, at, recorded_at as "recordedAt", severity, value, peak, by, text`;

/**
 * What there are events of, of which nobody has decided yet whom to notify: incidents, and alarms that cannot be judged. What people did and what cannot be judged come first, then the gravest, then what was recorded first:
 * in a storm, nobody waits for a critical one behind a thousand warnings.
 */
export const unhandledSubjects = (
  db: Queryable,
  most: number,
  after = 0
): Promise<{ incidentId: number | null; alarmId: number | null }[]> =>
  db.rows(
    `select incident_id as "incidentId", case when incident_id is null then alarm_id end as "alarmId"
     from incident_events
     where handled_at is null
     group by 1, 2
     order by max(${graverIsMore('severity')}) desc nulls first, min(id)
     limit $1 offset $2`,
    [most, after]
  );

/** The events of incidents, and of alarms that cannot be judged, of which nobody has decided yet whom to notify, in order; locked until the transaction ends. */
export const unhandledEvents = (
  within: Queryable,
  incidentIds: readonly number[],
  alarmIds: readonly number[]
): Promise<IncidentEvent[]> =>
  within.rows(
    `select ${columns}
     from incident_events
     where handled_at is null
       and (incident_id = any($1::integer[]) or incident_id is null and alarm_id = any($2::integer[]))
     order by id
     for update skip locked`,
    [incidentIds, alarmIds]
  );

/** What happened to an incident, in order. */
export const eventsOfIncident = (db: Queryable, incidentId: number): Promise<IncidentEvent[]> =>
  db.rows(`select ${columns} from incident_events where incident_id = $1 order by at, id`, [incidentId]);

/** What happened to several incidents, in order. */
export const eventsOfIncidents = (db: Queryable, incidentIds: readonly number[]): Promise<IncidentEvent[]> =>
  db.rows(`select ${columns} from incident_events where incident_id = any($1::integer[]) order by at, id`, [
    incidentIds
  ]);

/** Notes that nobody could be notified of an incident: once, however often it is tried. */
export async function noteUnreached(within: Queryable, incidentId: number, at: Instant): Promise<void> {
  await within.rows(
    `insert into incident_events (incident_id, alarm_id, kind, at, recorded_at, handled_at)
     select id, alarm_id, 'unreached', $2::bigint, $2::bigint, $2::bigint
     from incidents
     where id = $1 and not exists (select 1 from incident_events where incident_id = $1 and kind = 'unreached')`,
    [incidentId, at]
  );
}

/** Notes that messages about incidents are held back from now on, or no longer. */
export async function noteShelved(
  within: Queryable,
  incidentIds: readonly number[],
  kind: 'shelved' | 'unshelved',
  at: Instant,
  by: string | null
): Promise<void> {
  if (incidentIds.length === 0) return;
  await within.rows(
    `insert into incident_events (incident_id, alarm_id, kind, at, recorded_at, severity, by)
     select id, alarm_id, $2, $3::bigint, $3::bigint, severity, $4
     from incidents
     where id = any($1::integer[])`,
    [incidentIds, kind, at, by]
  );
}

/** Has open incidents routed anew, as when their route was removed. */
export async function noteRerouted(within: Queryable, incidentIds: readonly number[], at: Instant): Promise<void> {
  await within.rows(
    `insert into incident_events (incident_id, alarm_id, kind, at, recorded_at, severity)
     select id, alarm_id, 'rerouted', $2::bigint, $2::bigint, severity
     from incidents
     where id = any($1::integer[])`,
    [incidentIds, at]
  );
}

export async function markHandled(within: Queryable, ids: readonly number[], at: Instant): Promise<void> {
  await within.rows('update incident_events set handled_at = $2 where id = any($1::bigint[])', [ids, at]);
}

/** Notes that an alarm could not be judged for so long that its channels should hear of it. */
export async function noteUnjudged(within: Queryable, alarmId: number, at: Instant): Promise<void> {
  await within.rows(`insert into incident_events (alarm_id, kind, at, recorded_at) values ($1, 'unjudged', $2, $2)`, [
    alarmId,
    at
  ]);
}

/** Notes what a person did with an incident: who is notified next depends on it. */
export async function noteByPerson(
  within: Queryable,
  incidentId: number,
  kind: 'acknowledged' | 'unacknowledged' | 'dismissed' | 'outcome' | 'reopened',
  at: Instant,
  by: string,
  text: string | null = null
): Promise<void> {
  await within.rows(
    `insert into incident_events (incident_id, alarm_id, kind, at, recorded_at, by, text)
     select id, alarm_id, $2, $3::bigint, $3::bigint, $4, $5 from incidents where id = $1`,
    [incidentId, kind, at, by, text]
  );
}

/** How grave an incident was from which moment on by the data, in order; null from when it was clear. */
export const severityChangesOf = (
  db: Queryable,
  incidentId: number
): Promise<{ readonly at: Instant; readonly severity: Severity | null }[]> =>
  db.rows(
    `select at, case when kind in ('closed', 'ended') then null else severity end as severity
     from incident_events
     where incident_id = $1 and kind in ('opened', 'severity', 'closed', 'ended')
     order by at, id`,
    [incidentId]
  );
