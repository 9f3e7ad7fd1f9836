// incidents, accounts, series, resources
import type { Severity } from '$lib/core/alarm';
import { subjectOf, type Labels } from '$lib/core/signal';
import type { Instant, Range } from '$lib/core/time';
import { oneRow, type Queryable } from '../db/pool';

/** How many incidents of a service were raised, by how grave they became, on one of several days. */
export interface IncidentCount {
  /** Empty for what is at none. */
  readonly service: string;
  readonly severity: Severity;
  /** 0 for the first day. */
  readonly day: number;
  readonly count: number;
}

const serviceOf = `coalesce(resources.service, incidents.labels ->> 'service', '')`;
const places = `
  left join series on series.account_id = incidents.account_id and series.id = incidents.series_id
  left join resources on resources.account_id = incidents.account_id and resources.id = coalesce(series.resource_id, incidents.resource_id)`;

/**
 * Incidents that were raised on some days, counted; also what was found in history, as every list has it.
 *
 * @param edges where days begin, and where the last one ends
 */
export const incidentCounts = (db: Queryable, edges: readonly Instant[]): Promise<IncidentCount[]> =>
  db.rows<IncidentCount>(
    `select ${serviceOf} as service, incidents.gravest as severity, width_bucket(opened_at, $1::bigint[]) - 1 as day, count(*)::integer as count
     from incidents ${places}
     where opened_at >= $2 and opened_at < $3
     group by 1, 2, 3`,
    [edges, edges[0], edges.at(-1)]
  );

/** How many of those that were raised before an instant are open now. */
export const countOfOpen = async (db: Queryable, before: Instant): Promise<number> =>
  oneRow(
    await db.rows<{ count: number }>(
      'select count(*)::integer as count from incidents where ended_at is null and opened_at < $1',
      [before]
    )
  ).count;

/** An incident with how long it lasted within a range, ms. */
export interface LongIncident {
  readonly id: number;
  readonly alarm: string;
  readonly subject: string;
  readonly severity: Severity;
  readonly openedAt: Instant;
  readonly closedAt: Instant | null;
  readonly length: number;
}

/** The incidents that lasted longest within a range, the longest first; what is open lasts until its end. */
export async function longestIncidents(db: Queryable, { from, to }: Range, most: number): Promise<LongIncident[]> {
  const rows = await db.rows<Omit<LongIncident, 'subject'> & { labels: Labels; resource: string }>(
    `select incidents.id, coalesce(alarms.name, incidents.alarm_name) as alarm, incidents.labels,
       coalesce(resources.name, incidents.labels ->> 'resource', '') as resource, incidents.gravest as severity,
       opened_at as "openedAt", incidents.ended_at as "closedAt",
       least(coalesce(incidents.ended_at, $2), $2) - greatest(opened_at, $1) as length
     from incidents
     left join alarms on alarms.id = incidents.alarm_id and alarms.removed_at is null ${places}
     where opened_at < $2 and (incidents.ended_at is null or incidents.ended_at > $1)
     order by length desc, incidents.id
     limit $3`,
    [from, to, most]
  );
  return rows.map(({ labels, resource, ...incident }) => ({
    ...incident,
    subject: subjectOf(resource === '' ? labels : { ...labels, resource }, incident.alarm)
  }));
}
