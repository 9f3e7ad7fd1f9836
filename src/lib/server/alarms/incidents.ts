// incidents, state_changes
import type { Rule, Severity, State } from '$lib/core/alarm';
import type { Instant, Range } from '$lib/core/time';
import { oneRow, type Queryable } from '../db/pool';

/** The numbers a change of state was decided on. */
export interface Evidence {
  /** Start of the first cell of the window and the length of a cell, ms. */
  readonly start: number;
  readonly step: number;
  /** The window's values, oldest first; null is a gap. */
  readonly values: readonly (number | null)[];
  readonly met: number;
  readonly missing: number;
  readonly rule: Rule;
}

export interface StateChange {
  readonly at: Instant;
  readonly from: State;
  readonly to: State;
  readonly evidence: Evidence;
}

export interface Incident {
  readonly id: number;
  readonly alarmId: number;
  readonly alarm: string;
  readonly accountId: number;
  readonly account: string;
  readonly seriesId: number;
  readonly resource: string;
  readonly resourceId: number;
  readonly region: string;
  readonly service: string;
  readonly metric: string;
  readonly severity: Severity;
  readonly openedAt: Instant;
  readonly closedAt: Instant | null;
  /** The value farthest beyond the threshold so far; null when it was never known. */
  readonly peak: number | null;
}

const select = `
  select incidents.id, alarm_id as "alarmId", alarms.name as alarm, incidents.account_id as "accountId", accounts.name as account,
    series_id as "seriesId", resources.name as resource, resources.id as "resourceId", resources.region, resources.service, series.metric,
    incidents.severity, opened_at as "openedAt", closed_at as "closedAt", peak
  from incidents
  join alarms on alarms.id = incidents.alarm_id
  join accounts on accounts.id = incidents.account_id
  join series on series.account_id = incidents.account_id and series.id = incidents.series_id
  join resources on resources.account_id = series.account_id and resources.id = series.resource_id`;

export async function openIncident(
  db: Queryable,
  incident: {
    alarmId: number;
    accountId: number;
    seriesId: number;
    severity: Severity;
    openedAt: Instant;
    peak: number | null;
  }
): Promise<number> {
  const { alarmId, accountId, seriesId, severity, openedAt, peak } = incident;
  const rows = await db.rows<{ id: number }>(
    `insert into incidents (alarm_id, account_id, series_id, severity, opened_at, peak)
     values ($1, $2, $3, $4, $5, $6)
     returning id`,
    [alarmId, accountId, seriesId, severity, openedAt, peak]
  );
  return oneRow(rows).id;
}

export async function closeIncident(db: Queryable, id: number, closedAt: Instant): Promise<void> {
  await db.rows('update incidents set closed_at = $2 where id = $1 and closed_at is null', [id, closedAt]);
}

export async function notePeak(db: Queryable, id: number, peak: number): Promise<void> {
  await db.rows('update incidents set peak = $2 where id = $1', [id, peak]);
}

/** Open incidents of an alarm: id and peak by series. */
export async function openIncidentsOfAlarm(
  db: Queryable,
  alarmId: number
): Promise<{ id: number; seriesId: number; peak: number | null }[]> {
  return db.rows('select id, series_id as "seriesId", peak from incidents where alarm_id = $1 and closed_at is null', [
    alarmId
  ]);
}

export const openIncidents = (db: Queryable): Promise<Incident[]> =>
  db.rows<Incident>(`${select} where closed_at is null order by opened_at desc`);

/** Incidents that were open at any moment of a range, newest first. */
export const incidentsIn = (db: Queryable, { from, to }: Range, most = 500): Promise<Incident[]> =>
  db.rows<Incident>(
    `${select} where opened_at < $2 and (closed_at is null or closed_at >= $1) order by opened_at desc limit $3`,
    [from, to, most]
  );

export async function incidentById(db: Queryable, id: number): Promise<Incident | null> {
  const rows = await db.rows<Incident>(`${select} where incidents.id = $1`, [id]);
  return rows[0] ?? null;
}

export async function noteChange(
  db: Queryable,
  change: StateChange & { alarmId: number; accountId: number; seriesId: number; incidentId: number | null }
): Promise<void> {
  await db.rows(
    `insert into state_changes (alarm_id, account_id, series_id, incident_id, at, from_state, to_state, evidence)
     values ($1, $2, $3, $4, $5, $6, $7, $8)`,
    [
      change.alarmId,
      change.accountId,
      change.seriesId,
      change.incidentId,
      change.at,
      change.from,
      change.to,
      JSON.stringify(change.evidence)
    ]
  );
}

export async function changesOfIncident(db: Queryable, incidentId: number): Promise<StateChange[]> {
  return db.rows<StateChange>(
    `select at, from_state as "from", to_state as "to", evidence
     from state_changes
     where incident_id = $1
     order by at, id`,
    [incidentId]
  );
}
