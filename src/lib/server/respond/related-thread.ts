// threads, incident_threads
import { darkAfter } from '$lib/core/intake';
import { before, minute, type Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';
import type { Incident } from '../incidents/incidents';

/**
 * What the incidents of the thread have in common that an incident joins because it may have the same cause as one of them that is open: it is on the same resource, its account sends nothing, or it was raised in the same
 * minute. The oldest of several threads.
 *
 * @returns null when it belongs to none
 */
export async function relatedValue(
  within: Queryable,
  routeId: number,
  { id, account, resource, openedAt }: Incident,
  now: Instant
): Promise<string | null> {
  const [found] = await within.rows<{ value: string }>(
    // Of each thread one incident is enough: in a storm, one thread has thousands.
    `select value
     from threads
     join lateral (
       select 1
       from incident_threads
       join incidents on incidents.id = incident_id
       left join series on series.account_id = incidents.account_id and series.id = incidents.series_id
       left join resources on resources.account_id = series.account_id and resources.id = series.resource_id
       left join accounts on accounts.id = incidents.account_id
       where thread_id = threads.id
         and is_current
         and incidents.id <> $2
         and incidents.ended_at is null
         and (
           opened_at / $7 = $5::bigint / $7
           or coalesce(accounts.name, incidents.labels ->> 'account', '') = $3
             and $3 <> ''
             and (
               $4 <> '' and coalesce(resources.name, incidents.labels ->> 'resource', '') = $4
               or accounts.provider <> 'pushed'
                 and not exists (select 1 from collections where account_id = accounts.id and newest_at > $6)
             )
         )
       limit 1
     ) as related on true
     where route_id = $1
     order by threads.id
     limit 1`,
    [routeId, id, account, resource, openedAt, before(now, darkAfter), minute]
  );
  return found?.value ?? null;
}
