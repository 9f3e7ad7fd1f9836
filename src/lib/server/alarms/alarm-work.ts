// alarm_work
import { after, hour, minute, second, times, type Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';

/** An alarm that an engine has taken to judge. */
export interface TakenAlarm {
  readonly alarmId: number;
  /** Rises with each lease; what is written under an older one is refused. */
  readonly fence: number;
  /** The version of the definition that the memory belongs to. */
  readonly version: number;
  /** What is remembered of its series, see `decodeMemory`; null before the first judgement. */
  readonly memory: Uint8Array | null;
}

/** A lease lasts so long; an engine that has not written by then is taken to be gone. */
export const leaseLength = times(2, minute);
/** Nothing is due later than this, the longest cell and some time more: what says so was noted by a clock that has been set back since. */
const farthestDue = times(13, hour);

/**
 * Takes alarms that are due, the longest due first. A lease that would last longer than leases do was noted by a clock that has been set back since, and does not count.
 *
 * @param holder who takes them; an engine may take again what it holds itself
 * @param engines ids of the engines that live: what others hold is nobody's; null where that is not known, and leases count until they end
 */
export async function takeDue(
  db: Queryable,
  holder: string,
  now: Instant,
  most: number,
  engines: readonly string[] | null = null
): Promise<TakenAlarm[]> {
  return db.rows<TakenAlarm>(
    `update alarm_work
     set holder = $1, fence = fence + 1, leased_until = $3
     where alarm_id in (
       select alarm_id
       from alarm_work
       where (due_at <= $2 or due_at > $4)
         and (leased_until <= $2 or leased_until > $3 or holder = $1 or $6::text[] is not null and not holder = any($6))
       order by due_at
       limit $5
       for update skip locked
     )
     returning alarm_id as "alarmId", fence, version, memory`,
    [holder, now, after(now, leaseLength), after(now, farthestDue), most, engines]
  );
}

/** What is to be remembered of an alarm that was judged. */
export interface JudgedWork {
  readonly version: number;
  readonly memory: Uint8Array | null;
  readonly dueAt: Instant;
  readonly nextEnd: Instant;
}

/** Writes what is remembered and gives the lease back, in the transaction of what was judged. @returns false when the lease was lost: nothing may be written then */
export async function saveWork(
  within: Queryable,
  { alarmId, fence }: Pick<TakenAlarm, 'alarmId' | 'fence'>,
  { version, memory, dueAt, nextEnd }: JudgedWork
): Promise<boolean> {
  const rows = await within.rows(
    `update alarm_work
     set version = $3, memory = $4, due_at = $5, next_end = $6, leased_until = 0
     where alarm_id = $1 and fence = $2
     returning alarm_id`,
    [alarmId, fence, version, memory === null ? null : Buffer.from(memory), dueAt, nextEnd]
  );
  return rows.length > 0;
}

/** Gives a lease back; the alarm is due again later. */
export async function postponeWork(
  db: Queryable,
  { alarmId, fence }: Pick<TakenAlarm, 'alarmId' | 'fence'>,
  dueAt: Instant
): Promise<void> {
  await db.rows(
    `update alarm_work
     set due_at = $3, leased_until = 0
     where alarm_id = $1 and fence = $2`,
    [alarmId, fence, dueAt]
  );
}

/** What is remembered of an alarm's series; null before the first judgement. */
export async function memoryOfAlarm(db: Queryable, alarmId: number): Promise<Uint8Array | null> {
  const [row] = await db.rows<{ memory: Uint8Array | null }>('select memory from alarm_work where alarm_id = $1', [
    alarmId
  ]);
  return row?.memory ?? null;
}

/** New samples came: alarms that have a cell to judge are due. */
export async function wakeWaiting(db: Queryable, now: Instant): Promise<void> {
  await db.rows(`update alarm_work set due_at = $1 where next_end <= $1 and due_at > $1`, [now]);
}

/** Something that any alarm may depend on was changed, such as a group: all are due. */
export async function wakeAll(db: Queryable): Promise<void> {
  await db.rows('update alarm_work set due_at = 0');
}

/** An alarm was made or changed: it is due at once. */
export async function wakeAlarm(db: Queryable, alarmId: number): Promise<void> {
  await db.rows(
    `insert into alarm_work (alarm_id, due_at)
     values ($1, 0)
     on conflict (alarm_id) do update
     set due_at = 0`,
    [alarmId]
  );
}

/** Alarms are looked at at least this often while a cell waits for samples, so that silence is noticed too. */
export const lookAgainAfter = times(15, second);
