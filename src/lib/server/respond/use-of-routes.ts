import type { Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';

/** Of how many incidents people were notified by each route since an instant. */
export async function incidentsByRoute(db: Queryable, since: Instant): Promise<ReadonlyMap<number, number>> {
  const rows = await db.rows<{ routeId: number; count: number }>(
    `select route_id as "routeId", count(distinct incident)::integer as count
     from outbox, unnest(incident_ids) as incident
     where route_id is not null and created_at >= $1
     group by route_id`,
    [since]
  );
  return new Map(rows.map(({ routeId, count }) => [routeId, count]));
}
