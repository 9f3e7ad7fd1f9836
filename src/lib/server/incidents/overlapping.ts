// incidents
import type { Range } from '$lib/core/time';
import type { Queryable } from '../db/pool';
import { incidentRows, withSubject, type Incident } from './incidents';

/** Incidents of some services that were open within a span, the gravest first, then those that began nearest to its begin. */
export async function incidentsIn(
  db: Queryable,
  { from, to }: Range,
  services: readonly string[],
  most: number
): Promise<Incident[]> {
  const rows = await db.rows<Omit<Incident, 'subject'>>(
    `${incidentRows}
     where opened_at < $2 and (incidents.ended_at is null or incidents.ended_at > $1)
       and coalesce(resources.service, incidents.labels ->> 'service', '') = any($3::text[])
     order by array_position(array['critical', 'major', 'minor', 'warning'], incidents.gravest::text), abs(opened_at - $1), incidents.id
     limit $4`,
    [from, to, services, most]
  );
  return rows.map(withSubject);
}
