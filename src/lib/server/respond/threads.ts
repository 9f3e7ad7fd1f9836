// threads, incident_threads
import { readStored, writeStored } from '$lib/core/forms/stored';
import { emptyThread, isOver, nextDue, threadForm, type Route, type Thread } from '$lib/core/notify/route';
import { after, duration, type Instant } from '$lib/core/time';
import { oneRow, type Queryable } from '../db/pool';

/** Incidents that a route has and that are grouped together. */
export interface StoredThread {
  readonly id: number;
  readonly routeId: number;
  readonly thread: Thread;
}

type Row = Omit<StoredThread, 'thread'> & { readonly state: unknown };
const threadFrom = ({ state, ...rest }: Row): StoredThread => ({
  ...rest,
  thread: readStored(threadForm, state, `${rest.id}`)
});
const columns = 'threads.id, route_id as "routeId", state';

/**
 * The thread of what incidents of a route have in common, locked until the transaction ends. One that is over is forgotten, so that what comes next is another conversation.
 *
 * @param value what they have in common
 */
export async function lockThread(
  within: Queryable,
  routeId: number,
  route: Route,
  value: string,
  now: Instant
): Promise<StoredThread> {
  const known = await within.rows<Row>(`select ${columns} from threads where route_id = $1 and value = $2 for update`, [
    routeId,
    value
  ]);
  const found = known[0] ? threadFrom(known[0]) : null;
  if (found !== null && !isOver(found.thread, route, now)) return found;
  if (found !== null) await deleteThread(within, found.id);
  return threadFrom(
    oneRow(
      await within.rows<Row>(
        `insert into threads (route_id, value, state)
         values ($1, $2, $3)
         on conflict (route_id, value) do update set value = excluded.value
         returning ${columns}`,
        [routeId, value, writeStored(threadForm, emptyThread)]
      )
    )
  );
}

/** The threads that an incident is in, locked until the transaction ends. */
export const lockThreadsOf = async (within: Queryable, incidentId: number): Promise<StoredThread[]> =>
  (
    await within.rows<Row>(
      `select ${columns}
       from threads
       join incident_threads on thread_id = threads.id
       where incident_id = $1
       order by threads.id
       for update of threads`,
      [incidentId]
    )
  ).map(threadFrom);

/** The threads that an incident is in. */
export const threadsOf = async (db: Queryable, incidentId: number): Promise<StoredThread[]> =>
  (
    await db.rows<Row>(
      `select ${columns} from threads join incident_threads on thread_id = threads.id where incident_id = $1 order by threads.id`,
      [incidentId]
    )
  ).map(threadFrom);

/** A thread, locked until the transaction ends; null when it is gone, or another process is about it. */
export async function takeThread(within: Queryable, id: number): Promise<StoredThread | null> {
  const rows = await within.rows<Row>(`select ${columns} from threads where id = $1 for update skip locked`, [id]);
  return rows[0] ? threadFrom(rows[0]) : null;
}

/** Ids of threads of which a message is due, the longest due first. */
export const dueThreads = async (db: Queryable, now: Instant, most: number): Promise<number[]> =>
  (
    await db.rows<{ id: number }>('select id from threads where due_at <= $1 order by due_at, id limit $2', [now, most])
  ).map(({ id }) => id);

/** Stores a thread, with when its next message is due; of one that nothing is left of, when it can be forgotten. */
export async function saveThread(within: Queryable, id: number, thread: Thread, route: Route): Promise<void> {
  await within.rows('update threads set state = $2, due_at = $3 where id = $1', [
    id,
    writeStored(threadForm, thread),
    nextDue(thread, route) ?? forgottenAt(thread, route)
  ]);
}

function forgottenAt({ open, pending, sentAt }: Thread, { group }: Route): Instant | null {
  if (open.length > 0 || pending.length > 0) return null;
  return after(sentAt ?? (0 as Instant), duration(group.atMostEvery));
}

export async function noteInThread(within: Queryable, incidentId: number, threadId: number): Promise<void> {
  await within.rows(
    'insert into incident_threads (incident_id, thread_id) values ($1, $2) on conflict (incident_id, thread_id) do nothing',
    [incidentId, threadId]
  );
}

export async function deleteThread(within: Queryable, id: number): Promise<void> {
  await within.rows('delete from threads where id = $1', [id]);
}

/** Open incidents that a route has and no other route has. */
export const openOnlyBy = async (within: Queryable, routeId: number): Promise<number[]> =>
  (
    await within.rows<{ id: number }>(
      `select incidents.id
       from incidents
       where closed_at is null
         and exists (select 1 from incident_threads join threads on threads.id = thread_id where incident_id = incidents.id and route_id = $1)
         and not exists (select 1 from incident_threads join threads on threads.id = thread_id where incident_id = incidents.id and route_id <> $1)`,
      [routeId]
    )
  ).map(({ id }) => id);
