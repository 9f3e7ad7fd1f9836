// events
import { before, day, times, type Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';
import type { ClusterName } from './containers-now';

/** A container that was started again, and why as its provider says it. */
export interface Restart {
  readonly at: Instant;
  readonly copy: string;
  readonly workload: string;
  readonly text: string;
}

/** Restarts that a page lists, and over how long. */
const mostRestarts = 20;
const listedOver = times(14, day);

/** Restarts of the fortnight before an instant, the newest first: of a cluster, a workload, or a container. */
export async function restartsOf(
  db: Queryable,
  { account, cluster }: ClusterName,
  only: { readonly workload: string | null; readonly copies: readonly string[] | null },
  at: Instant
): Promise<Restart[]> {
  return db.rows<Restart>(
    `select events.at, events.subject ->> 'copy' as copy, resources.name as workload, events.text
     from events
     join accounts on accounts.id = events.account_id
     join resources on resources.account_id = events.account_id and resources.id = events.resource_id
     where accounts.name = $1 and resources.tags ->> 'cluster' = $2 and resources.type = 'workload' and events.kind = 'restarted'
       and events.subject ? 'copy' and events.at >= $3 and events.at <= $4
       and ($5::text is null or resources.name = $5) and ($6::text[] is null or events.subject ->> 'copy' = any($6))
     order by events.at desc, events.id desc
     limit $7`,
    [account, cluster, before(at, listedOver), at, only.workload, only.copies, mostRestarts]
  );
}
