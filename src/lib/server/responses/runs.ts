// response_runs
import { actionSchema, settling, type Action, type Effect, type Run, type RunState } from '$lib/core/response';
import { after, before, hour, type Instant } from '$lib/core/time';
import { oneRow, type Queryable } from '../db/pool';

export interface StoredRun extends Run {
  readonly id: number;
  readonly responseId: number | null;
  readonly incidentId: number | null;
  readonly attempt: number;
  readonly accountId: number | null;
  readonly resourceId: number | null;
  /** What the resource was called then; empty for none. */
  readonly resource: string;
  /** Whoever did it, or the name of the response. */
  readonly by: string;
}

const columns = `id, key, response_id as "responseId", incident_id as "incidentId", attempt, account_id as "accountId", resource_id as "resourceId", resource,
  action, by, state, says, created_at as "createdAt", sent_at as "sentAt", ended_at as "endedAt", effect, effect_at as "effectAt"`;
type Row = Omit<StoredRun, 'action'> & { readonly action: unknown };
const fromRow = (row: Row): StoredRun => ({ ...row, action: actionSchema.parse(row.action) });

/** Which runs are listed; what is left out holds for all. */
export interface RunFilter {
  readonly incidentId?: number | undefined;
  readonly resourceId?: number | undefined;
  readonly responseId?: number | undefined;
}

/** Runs, the newest first. */
export const listRuns = async (
  db: Queryable,
  { incidentId, resourceId, responseId }: RunFilter,
  most: number,
  after: number | null = null
): Promise<StoredRun[]> =>
  (
    await db.rows<Row>(
      `select ${columns}
       from response_runs
       where ($1::integer is null or incident_id = $1) and ($2::integer is null or resource_id = $2) and ($3::integer is null or response_id = $3)
         and ($5::bigint is null or id < $5)
       order by id desc
       limit $4`,
      [incidentId ?? null, resourceId ?? null, responseId ?? null, most, after]
    )
  ).map(fromRow);

export async function runById(db: Queryable, id: number): Promise<StoredRun | null> {
  const [row] = await db.rows<Row>(`select ${columns} from response_runs where id = $1`, [id]);
  return row ? fromRow(row) : null;
}

/** @returns null when nothing was ordered under this key */
export async function runByKey(db: Queryable, key: string): Promise<StoredRun | null> {
  const [row] = await db.rows<Row>(`select ${columns} from response_runs where key = $1`, [key]);
  return row ? fromRow(row) : null;
}

/** Of everything that decides whether something may be done, one at a time until its transaction ends: limits hold with several engines. */
export async function lockActs(within: Queryable): Promise<void> {
  await within.rows('select pg_advisory_xact_lock($1)', [actLock]);
}
const actLock = 7_316_045;

/** Whether something is under way with a resource. */
export const isUnderWay = async (db: Queryable, resourceId: number): Promise<boolean> =>
  (
    await db.rows(`select id from response_runs where resource_id = $1 and state in ('sending', 'going') limit 1`, [
      resourceId
    ])
  ).length > 0;

/** What is to be done, before it is. */
export interface NewRun extends Pick<
  StoredRun,
  'key' | 'responseId' | 'incidentId' | 'attempt' | 'accountId' | 'resourceId' | 'resource' | 'by' | 'state' | 'says'
> {
  readonly action: Action;
}

/**
 * Writes down what is to be done. One that is `sending` is looked at again once its claim has ended, should the process end before it knows more.
 *
 * @param claimedUntil until when this process is about it
 */
export const insertRun = async (
  within: Queryable,
  run: NewRun,
  at: Instant,
  claimedUntil: Instant | null
): Promise<StoredRun> =>
  fromRow(
    oneRow(
      await within.rows<Row>(
        `insert into response_runs (key, response_id, incident_id, attempt, account_id, resource_id, resource, action, by, state, says, created_at, sent_at, ended_at, due_at, claimed_until)
         values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10::text, $11, $12::bigint, case when $10::text = 'sending' then $12::bigint end,
           case when $10::text = 'dropped' then $12::bigint end, $13::bigint, $13::bigint)
         returning ${columns}`,
        [
          ...[run.key, run.responseId, run.incidentId, run.attempt, run.accountId, run.resourceId, run.resource],
          ...[JSON.stringify(run.action), run.by, run.state, run.says, at, claimedUntil]
        ]
      )
    )
  );

/** Lets one that was held back be sent, or says anew why it is held back, or drops it. @returns null when it is not held back any more */
export async function changeHeld(
  within: Queryable,
  id: number,
  { state, says, action }: { readonly state: RunState; readonly says: string; readonly action: Action },
  at: Instant,
  claimedUntil: Instant | null
): Promise<StoredRun | null> {
  const [row] = await within.rows<Row>(
    `update response_runs
     set state = $2::text, says = $3, action = $4, sent_at = case when $2::text = 'sending' then $5::bigint end,
       ended_at = case when $2::text = 'dropped' then $5::bigint end, due_at = $6::bigint, claimed_until = $6::bigint
     where id = $1 and state = 'held' and (state, says) is distinct from ($2::text, $3)
     returning ${columns}`,
    [id, state, says, JSON.stringify(action), at, claimedUntil]
  );
  return row ? fromRow(row) : null;
}

/** How something that was sent stands now. */
export interface RunNews {
  readonly state: RunState;
  readonly says: string;
  readonly endedAt: Instant | null;
  /** When it is looked at again; null for never. */
  readonly dueAt: Instant | null;
}

/**
 * Writes down how something stands that is not over yet.
 *
 * @param isAnswer of whoever sent it, who knows better than whoever asked meanwhile, as when the clock jumped
 */
export async function noteRun(
  db: Queryable,
  id: number,
  { state, says, endedAt, dueAt }: RunNews,
  isAnswer = false
): Promise<void> {
  await db.rows(
    `update response_runs
     set state = $2, says = $3, ended_at = $4, due_at = $5, claimed_until = null
     where id = $1 and (state in ('sending', 'going') or $6 and state in ('failed', 'unknown'))`,
    [id, state, says, endedAt, dueAt, isAnswer]
  );
}

/** Writes down what came of something by what raised it. @param dueAt when it is looked at again; null once it is known */
export async function noteEffect(
  db: Queryable,
  id: number,
  effect: { readonly effect: Effect; readonly at: Instant } | null,
  dueAt: Instant | null
): Promise<void> {
  await db.rows(
    'update response_runs set effect = $2, effect_at = $3, due_at = $4, claimed_until = null where id = $1',
    [id, effect?.effect ?? null, effect?.at ?? null, dueAt]
  );
}

/** Takes runs that are due, so that no other process is about them. A claim that would last longer than claims do was noted by a clock that has been set back since. */
export const takeDueRuns = async (
  db: Queryable,
  now: Instant,
  claimedUntil: Instant,
  most: number
): Promise<StoredRun[]> =>
  (
    await db.rows<Row>(
      `update response_runs
       set claimed_until = $2
       where id in (
         select id
         from response_runs
         where due_at is not null and (due_at <= $1 or due_at > $3) and (claimed_until is null or claimed_until <= $1 or claimed_until > $2)
         order by due_at
         limit $4
         for update skip locked)
       returning ${columns}`,
      [now, claimedUntil, after(now, hour), most]
    )
  ).map(fromRow);

/** Those that are held back. */
export const heldRuns = async (db: Queryable): Promise<StoredRun[]> =>
  (await db.rows<Row>(`select ${columns} from response_runs where state = 'held' order by id limit 5000`)).map(fromRow);

/** The newest run of a response for each of some incidents. */
export async function newestRuns(
  db: Queryable,
  responseId: number,
  incidentIds: readonly number[]
): Promise<ReadonlyMap<number, StoredRun>> {
  const rows = await db.rows<Row>(
    `select distinct on (incident_id) ${columns}
     from response_runs
     where response_id = $1 and incident_id = any($2::integer[])
     order by incident_id, attempt desc`,
    [responseId, incidentIds]
  );
  return new Map(rows.map((row) => [row.incidentId as number, fromRow(row)]));
}

/**
 * When something was begun with a resource since a moment, by a response, or by others where it was not refused.
 *
 * @param resourceId null for what the response did about no single resource
 */
export async function begunSince(
  db: Queryable,
  responseId: number,
  resourceId: number | null,
  since: Instant
): Promise<Instant[]> {
  const rows = await db.rows<{ at: Instant }>(
    `select sent_at as at
     from response_runs
     where sent_at > $3 and resource_id is not distinct from $2::integer
       and (response_id = $1 or $2::integer is not null and state <> 'refused')`,
    [responseId, resourceId, since]
  );
  return rows.map(({ at }) => at);
}

/** Of some resources, those with which something is under way, was done lately, of which nobody knows, or that were stopped and not started again. */
export async function affectedOf(
  db: Queryable,
  resourceIds: readonly number[],
  now: Instant
): Promise<ReadonlySet<number>> {
  const rows = await db.rows<{ id: number }>(
    `select distinct resource_id as id
     from response_runs as run
     where resource_id = any($1::integer[]) and (
       state in ('sending', 'going')
       or state in ('done', 'failed') and ended_at > $2
       or state = 'unknown' and ended_at > $3
       or state = 'done' and action ->> 'kind' = 'stop' and not exists (
         select from response_runs as later
         where later.resource_id = run.resource_id and later.id > run.id and later.state = 'done' and later.action ->> 'kind' in ('start', 'restart')))`,
    [resourceIds, before(now, settling), before(now, hour)]
  );
  return new Set(rows.map(({ id }) => id));
}

/** The newest runs of a response that are over, the newest first. @param since its last change: what was before says nothing of it */
export const lastRuns = (
  db: Queryable,
  responseId: number,
  since: Instant,
  most: number
): Promise<Pick<Run, 'state' | 'effect'>[]> =>
  db.rows(
    `select state, effect
     from response_runs
     where response_id = $1 and created_at >= $2 and state not in ('held', 'dropped')
     order by id desc
     limit $3`,
    [responseId, since, most]
  );

/** Removes what ended before a moment. */
export async function forgetRuns(db: Queryable, at: Instant): Promise<void> {
  await db.rows('delete from response_runs where ended_at < $1', [at]);
}
