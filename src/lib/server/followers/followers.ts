// followers, followed_changes
import type { Change, Follower } from '$lib/core/followers';
import type { Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';

/** A program that follows changes. */
export interface StoredFollower {
  readonly id: number;
  readonly follower: Follower;
  /** What its webhook is called. */
  readonly name: string;
  readonly version: number;
  readonly changedAt: Instant;
  readonly changedBy: string;
  /** Tries that failed on end, since when, and why the last one did. */
  readonly tries: number;
  readonly failingSince: Instant | null;
  readonly problem: string | null;
  /** When it was switched off because it had failed for too long. */
  readonly stoppedAt: Instant | null;
  /** When the next try is due, or whoever sends lets go of it. */
  readonly nextAt: Instant;
  /** Changes that have not been sent. */
  readonly waiting: number;
  /** When a change was sent last; null for none of the last days. */
  readonly sentAt: Instant | null;
}

/** A change for a follower. */
export interface FollowedChange {
  readonly id: number;
  readonly followerId: number;
  readonly kind: string;
  readonly at: Instant;
  readonly change: Change;
  readonly sentAt: Instant | null;
  readonly answer: string | null;
}

const columns = `followers.id, channel_id as "channelId", kinds, is_on as "isOn", version, changed_at as "changedAt", changed_by as "changedBy",
  tries, failing_since as "failingSince", problem, stopped_at as "stoppedAt", next_at as "nextAt",
  coalesce((select name from channels where id = channel_id), '') as name,
  (select count(*)::integer from followed_changes where follower_id = followers.id and sent_at is null) as waiting,
  (select max(sent_at) from followed_changes where follower_id = followers.id) as "sentAt"`;
type Row = Omit<StoredFollower, 'follower'> & Follower;
const fromRow = ({ channelId, kinds, isOn, ...row }: Row): StoredFollower => ({
  ...row,
  follower: { channelId, kinds, isOn }
});

export const allFollowers = async (db: Queryable): Promise<StoredFollower[]> =>
  (await db.rows<Row>(`select ${columns} from followers order by name, id`)).map(fromRow);

export const areFollowers = async (db: Queryable): Promise<boolean> =>
  (await db.rows('select 1 from followers limit 1')).length > 0;

export async function followerById(db: Queryable, id: number): Promise<StoredFollower | null> {
  const [row] = await db.rows<Row>(`select ${columns} from followers where id = $1`, [id]);
  return row === undefined ? null : fromRow(row);
}

export interface Author {
  readonly at: Instant;
  readonly by: string;
}

/** @returns null where its webhook follows already */
export async function insertFollower(
  db: Queryable,
  { channelId, kinds, isOn }: Follower,
  { at, by }: Author
): Promise<StoredFollower | null> {
  const [row] = await db.rows<{ id: number }>(
    `insert into followers (channel_id, kinds, is_on, changed_at, changed_by) values ($1, $2::text[], $3, $4, $5)
     on conflict (channel_id) do nothing returning id`,
    [channelId, kinds, isOn, at, by]
  );
  return row === undefined ? null : followerById(db, row.id);
}

/** What it failed with before does not count any more: it is tried at once. @returns whether the version that was seen was the newest */
export async function updateFollower(
  db: Queryable,
  id: number,
  version: number,
  { channelId, kinds, isOn }: Follower,
  { at, by }: Author
): Promise<boolean> {
  const rows = await db.rows(
    `update followers
     set channel_id = $3, kinds = $4::text[], is_on = $5, changed_at = $6, changed_by = $7, version = version + 1,
       tries = 0, failing_since = null, problem = null, stopped_at = null, next_at = case when tries = 0 then next_at else 0 end
     where id = $1 and version = $2 returning id`,
    [id, version, channelId, kinds, isOn, at, by]
  );
  return rows.length > 0;
}

export const deleteFollower = async (db: Queryable, id: number): Promise<boolean> =>
  (await db.rows('delete from followers where id = $1 returning id', [id])).length > 0;

/** Changes of a follower, the newest first. @param beforeId of those before one of them; null from the newest on */
export const changesOf = (
  db: Queryable,
  followerId: number,
  most: number,
  beforeId: number | null
): Promise<FollowedChange[]> =>
  db.rows(
    `select id, follower_id as "followerId", kind, at, change, sent_at as "sentAt", answer
     from followed_changes
     where follower_id = $1 and ($2::bigint is null or id < $2)
     order by id desc
     limit $3`,
    [followerId, beforeId, most]
  );

/**
 * Takes followers for whom something waits, until an instant: nobody else sends to them before.
 *
 * @param farthest a time after which none is due: one that is due later was written by a clock that went wrong
 */
export async function takeDueFollowers(
  db: Queryable,
  now: Instant,
  until: Instant,
  farthest: Instant,
  most: number
): Promise<number[]> {
  const rows = await db.rows<{ id: number }>(
    `update followers set next_at = $2
     where id in (
       select id from followers
       where is_on and (next_at <= $1 or next_at > $3)
         and exists (select from followed_changes where follower_id = followers.id and sent_at is null)
       order by next_at limit $4
       for update skip locked)
     returning id`,
    [now, until, farthest, most]
  );
  return rows.map(({ id }) => id);
}

/** The first change that waits for a follower; null for none. */
export async function firstWaiting(db: Queryable, followerId: number): Promise<FollowedChange | null> {
  const [row] = await db.rows<FollowedChange>(
    `select id, follower_id as "followerId", kind, at, change, sent_at as "sentAt", answer
     from followed_changes where follower_id = $1 and sent_at is null order by id limit 1`,
    [followerId]
  );
  return row ?? null;
}

/** Notes that a change was taken, and holds its follower for longer. */
export async function noteSent(
  db: Queryable,
  { id, followerId }: FollowedChange,
  answer: string,
  at: Instant,
  until: Instant
): Promise<void> {
  await db.rows(
    `with sent as (update followed_changes set sent_at = $3, answer = $4 where id = $1)
     update followers set next_at = $5, tries = 0, failing_since = null, problem = null where id = $2`,
    [id, followerId, at, answer, until]
  );
}

/** Notes a try that failed. @returns how many failed on end, and since when; null where the follower is gone */
export async function noteFailedTry(
  db: Queryable,
  id: number,
  problem: string,
  at: Instant
): Promise<{ readonly tries: number; readonly failingSince: Instant } | null> {
  const [noted] = await db.rows<{ tries: number; failingSince: Instant }>(
    `update followers set tries = tries + 1, failing_since = coalesce(failing_since, $3), problem = $2
     where id = $1 returning tries, failing_since as "failingSince"`,
    [id, problem, at]
  );
  return noted ?? null;
}

/** When a follower is tried next. */
export async function tryAgainAt(db: Queryable, id: number, at: Instant): Promise<void> {
  await db.rows('update followers set next_at = $2 where id = $1', [id, at]);
}

/** Switches a follower off that failed for too long. */
export async function stopFollower(db: Queryable, id: number, at: Instant): Promise<void> {
  await db.rows('update followers set is_on = false, stopped_at = $2, version = version + 1 where id = $1', [id, at]);
}

/** Removes what was sent, or happened, too long ago. */
export async function forgetChanges(db: Queryable, sentBefore: Instant, happenedBefore: Instant): Promise<void> {
  await db.rows('delete from followed_changes where sent_at < $1 or at < $2', [sentBefore, happenedBefore]);
}
