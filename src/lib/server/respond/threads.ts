// threads, incident_threads
import { groupBy } from '$lib/core/lists/group-by';
import { readableOf, readStored, writeStored } from '$lib/core/forms/stored';
import { emptyThread, isOver, nextDue, threadForm, type Route, type Thread } from '$lib/core/notify/route';
import { after, duration, type Instant } from '$lib/core/time';
import { oneRow, type Queryable } from '../db/pool';

/** Incidents that a route has and that are grouped together. */
export interface StoredThread {
  readonly id: number;
  readonly routeId: number;
  readonly thread: Thread;
}

type Row = Omit<StoredThread, 'thread'> & { readonly value: string; readonly state: unknown };
const threadFrom = ({ id, routeId, state }: Row): StoredThread => ({
  ...{ id, routeId },
  thread: readStored(threadForm, state, `${id}`)
});
const readable = (row: Row): StoredThread | null => readableOf([row], threadFrom)[0] ?? null;
const columns = 'threads.id, route_id as "routeId", value, state';

/** A thread that an incident is in. */
export interface ThreadOfIncident extends StoredThread {
  /** Whether its route has the incident now; another took it over otherwise. */
  readonly isCurrent: boolean;
}

/** The threads that a transaction changes: each is locked and read once, however many incidents it has, and stored once. */
export class HeldThreads {
  private readonly held = new Map<number, StoredThread & { readonly route: Route }>();
  private readonly ids = new Map<string, number>();
  /** Threads that incidents are noted in and that is not stored yet, by incident, the current one last. */
  private readonly noted = new Map<number, number[]>();

  private constructor(
    private readonly within: Queryable,
    private readonly ofIncident: ReadonlyMap<number, readonly { readonly id: number; readonly isCurrent: boolean }[]>
  ) {}

  /** Begins with the threads that some incidents are in. */
  static async ofIncidents(within: Queryable, incidentIds: readonly number[]): Promise<HeldThreads> {
    const rows = await within.rows<{ incidentId: number; id: number; isCurrent: boolean }>(
      `select incident_id as "incidentId", thread_id as id, is_current as "isCurrent"
       from incident_threads
       where incident_id = any($1::integer[])
       order by thread_id`,
      [incidentIds]
    );
    return new HeldThreads(
      within,
      groupBy(rows, ({ incidentId }) => incidentId)
    );
  }

  /** The threads that an incident is in, by the routes that there are; those that cannot be read, and those of routes that are gone, are left out. */
  async of(incidentId: number, routes: ReadonlyMap<number, { readonly route: Route }>): Promise<ThreadOfIncident[]> {
    const found: ThreadOfIncident[] = [];
    for (const { id, isCurrent } of this.ofIncident.get(incidentId) ?? []) {
      const one = this.held.get(id) ?? (await this.lock(id, routes));
      if (one !== null) found.push({ ...one, isCurrent });
    }
    return found;
  }

  /**
   * The thread of what incidents of a route have in common. One that is over is forgotten, so that what comes next is another conversation; so is one that cannot be read, since people are to be notified all the same.
   *
   * @param value what they have in common
   */
  async take(routeId: number, route: Route, value: string, now: Instant): Promise<StoredThread> {
    const key = `${routeId} ${value}`;
    const found = this.held.get(this.ids.get(key) ?? -1) ?? (await this.lockByValue(routeId, value));
    // One that was just made has nothing in it yet, and is the one that is wanted.
    const isWanted = found !== null && (found.thread.sentAt === null || !isOver(found.thread, route, now));
    if (found !== null && !isWanted) await this.forget(found.id);
    const taken = isWanted ? found : await this.make(routeId, value);
    this.ids.set(key, taken.id);
    this.held.set(taken.id, { ...taken, route });
    return taken;
  }

  /** Changes a thread that is held; it is stored by {@link save}. One that was forgotten meanwhile stays so. */
  change(id: number, thread: Thread): void {
    const one = this.held.get(id);
    if (one !== undefined) this.held.set(id, { ...one, thread });
  }

  /** Notes that a thread has an incident now, and no other has. */
  note(incidentId: number, threadId: number): void {
    const before = this.noted.get(incidentId)?.filter((id) => id !== threadId) ?? [];
    this.noted.set(incidentId, [...before, threadId]);
  }

  /** Stores which threads have which incidents now, for whoever asks the database. */
  async saveNoted(): Promise<void> {
    const pairs = [...this.noted].flatMap(([incidentId, ids]) =>
      ids.map((threadId, index) => ({ incidentId, threadId, isCurrent: index === ids.length - 1 }))
    );
    this.noted.clear();
    if (pairs.length === 0) return;
    await this.within.rows(
      `with noted as (
         select * from unnest($1::integer[], $2::integer[], $3::boolean[]) as noted (incident_id, thread_id, is_current)
       ),
       others as (
         update incident_threads
         set is_current = false
         where incident_id = any($1::integer[])
           and not exists (
             select 1 from noted
             where noted.incident_id = incident_threads.incident_id and noted.thread_id = incident_threads.thread_id
           )
       )
       insert into incident_threads (incident_id, thread_id, is_current)
       select incident_id, thread_id, is_current from noted
       on conflict (incident_id, thread_id) do update set is_current = excluded.is_current`,
      [
        pairs.map(({ incidentId }) => incidentId),
        pairs.map(({ threadId }) => threadId),
        pairs.map(({ isCurrent }) => isCurrent)
      ]
    );
  }

  async save(): Promise<void> {
    await this.saveNoted();
    for (const { id, thread, route } of this.held.values()) await saveThread(this.within, id, thread, route);
  }

  private async lock(id: number, routes: ReadonlyMap<number, { readonly route: Route }>) {
    const [row] = await this.within.rows<Row>(`select ${columns} from threads where id = $1 for update`, [id]);
    const stored = row === undefined ? null : readable(row);
    const route = stored === null ? undefined : routes.get(stored.routeId)?.route;
    if (row === undefined || stored === null || route === undefined) return null;
    this.ids.set(`${row.routeId} ${row.value}`, id);
    const one = { ...stored, route };
    this.held.set(id, one);
    return one;
  }

  private async lockByValue(routeId: number, value: string): Promise<StoredThread | null> {
    const [row] = await this.within.rows<Row>(
      `select ${columns} from threads where route_id = $1 and value = $2 for update`,
      [routeId, value]
    );
    const found = row === undefined ? null : readable(row);
    if (row !== undefined && found === null) await this.forget(row.id);
    return found;
  }

  private async make(routeId: number, value: string): Promise<StoredThread> {
    return threadFrom(
      oneRow(
        await this.within.rows<Row>(
          `insert into threads (route_id, value, state)
           values ($1, $2, $3)
           on conflict (route_id, value) do update set value = excluded.value
           returning ${columns}`,
          [routeId, value, writeStored(threadForm, emptyThread)]
        )
      )
    );
  }

  private async forget(id: number): Promise<void> {
    this.held.delete(id);
    for (const [incidentId, ids] of this.noted)
      this.noted.set(
        incidentId,
        ids.filter((one) => one !== id)
      );
    await deleteThread(this.within, id);
  }
}

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

export async function deleteThread(within: Queryable, id: number): Promise<void> {
  await within.rows('delete from threads where id = $1', [id]);
}

/** Open incidents that a route has and no other route has. */
export const openOnlyBy = async (within: Queryable, routeId: number): Promise<number[]> =>
  (
    await within.rows<{ id: number }>(
      `select incidents.id
       from incidents
       where ended_at is null
         and exists (select 1 from incident_threads join threads on threads.id = thread_id where incident_id = incidents.id and route_id = $1)
         and not exists (select 1 from incident_threads join threads on threads.id = thread_id where incident_id = incidents.id and route_id <> $1)`,
      [routeId]
    )
  ).map(({ id }) => id);
