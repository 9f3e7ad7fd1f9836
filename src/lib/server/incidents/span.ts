// incidents of a span of time
import { subjectOf, type Labels } from '$lib/core/signal';
import type { Range } from '$lib/core/time';
import type { Queryable } from '../db/pool';
import { incidentRows, withSubject, type Incident } from './incidents';

/** Those that were open at any moment from $1 to $2, so many of the newest as $3 says. */
const newestIn = (more = '') => `
  where incidents.id in (
    select id from incidents where opened_at < $2 and (ended_at is null or ended_at >= $1) ${more} order by opened_at desc, id desc limit $3
  )`;

/** What the strip of the logbook shows of an incident. */
export type LogbookIncident = Pick<
  Incident,
  'id' | 'alarmId' | 'alarm' | 'subject' | 'resource' | 'account' | 'service' | 'severity' | 'openedAt' | 'closedAt'
>;

/** {@link incidentsIn}, as every page has them: no more of each than it shows. */
export async function logbookIncidents(db: Queryable, { from, to }: Range, most = 500): Promise<LogbookIncident[]> {
  const rows = await db.rows<Omit<LogbookIncident, 'subject'> & { labels: Labels }>(
    `select id, "alarmId", alarm, labels, resource, account, service, severity, "openedAt", "closedAt"
     from (${incidentRows} ${newestIn()}) as listed
     order by "openedAt" desc, id desc`,
    [from, to, most]
  );
  return rows.map(({ labels, ...incident }) => ({ ...incident, subject: subjectOf(labels, incident.alarm) }));
}

/** Incidents that were open at any moment of a range, newest first. @param after the id of one of which only those behind it are listed */
export async function incidentsIn(
  db: Queryable,
  { from, to }: Range,
  most = 500,
  after: number | null = null
): Promise<Incident[]> {
  const behind =
    after === null
      ? ''
      : 'and (opened_at, id) < (select one.opened_at, one.id from incidents as one where one.id = $4::bigint)';
  const rows = await db.rows<Omit<Incident, 'subject'>>(
    `${incidentRows} ${newestIn(behind)} order by opened_at desc, incidents.id desc`,
    [from, to, most, ...(after === null ? [] : [after])]
  );
  return rows.map(withSubject);
}
