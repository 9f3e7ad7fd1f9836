// log_feeds, log_arrived
import { hour, type Instant } from '$lib/core/time';
import type { Queryable } from '../../db/pool';
import type { AccountError } from '../../inventory/accounts';

/** How far one feed of lines is read: between the first two moments all lines are here. */
export interface FeedState {
  readonly historyTo: Instant;
  readonly until: Instant;
  /** The piece of history under way, which ends at `historyTo`: where it begins, and up to where its lines are here; null between two. */
  readonly piece: { readonly from: Instant; readonly until: Instant } | null;
}

/** How far a feed has come, stored together with the lines. */
export interface FeedProgress extends FeedState {
  readonly accountId: number;
  readonly feed: string;
}

/** A feed of an account as a page lists it. */
export interface Feed extends FeedState {
  readonly accountId: number;
  readonly feed: string;
  readonly service: string;
  readonly lastAt: Instant | null;
  readonly lastError: AccountError | null;
}

const state = `history_to as "historyTo", until_at as "until",
  case when piece_from is null then null else json_build_object('from', piece_from, 'until', piece_until) end as piece`;
const columns = `account_id as "accountId", feed, service, ${state}, last_at as "lastAt", last_error as "lastError"`;

export const feedsOf = (db: Queryable, accountId: number): Promise<Feed[]> =>
  db.rows(`select ${columns} from log_feeds where account_id = $1 order by feed`, [accountId]);

/** Where a feed is of, and up to when its lines are here. */
export interface FeedPlace {
  readonly account: string;
  readonly service: string;
  readonly until: Instant;
  readonly isFailing: boolean;
}

/** Every feed of accounts that are read. */
export const allFeeds = (db: Queryable): Promise<FeedPlace[]> =>
  db.rows(`select name as account, service, until_at as until, log_feeds.last_error is not null as "isFailing"
    from log_feeds join accounts on accounts.id = account_id
    where removed_at is null`);

/** How far a feed is read; one that is new begins at a moment. */
export async function feedState(
  db: Queryable,
  accountId: number,
  { name, service }: { readonly name: string; readonly service: string },
  begin: Instant
): Promise<FeedState> {
  const rows = await db.rows<FeedState>(
    `insert into log_feeds (account_id, feed, service, history_to, until_at)
     select $1, $2, $3, $4, $4
     where exists (select 1 from accounts where id = $1)
     on conflict (account_id, feed) do update set service = excluded.service
     returning ${state}`,
    [accountId, name, service, begin]
  );
  return rows[0] ?? { historyTo: begin, until: begin, piece: null };
}

/** Says how far a feed has come; part of the transaction that stores its lines. */
export async function saveProgress(
  within: Queryable,
  { accountId, feed, historyTo, until, piece }: FeedProgress,
  isHistory: boolean
): Promise<void> {
  // What is read forwards and what is read of history are two, and neither takes the other's word back.
  await (isHistory
    ? within.rows(
        'update log_feeds set history_to = $3, piece_from = $4, piece_until = $5 where account_id = $1 and feed = $2',
        [accountId, feed, historyTo, piece?.from ?? null, piece?.until ?? null]
      )
    : within.rows('update log_feeds set until_at = $3 where account_id = $1 and feed = $2', [accountId, feed, until]));
}

/** Notes how reading a feed went. */
export async function noteFeed(
  db: Queryable,
  accountId: number,
  feed: string,
  error: AccountError | null,
  at: Instant
): Promise<void> {
  await db.rows('update log_feeds set last_at = $3, last_error = $4::jsonb where account_id = $1 and feed = $2', [
    accountId,
    feed,
    at,
    error === null ? null : JSON.stringify(error)
  ]);
}

/** Notes why none of the feeds of an account can be read. */
export async function noteAllFeeds(db: Queryable, accountId: number, error: AccountError, at: Instant): Promise<void> {
  await db.rows('update log_feeds set last_at = $2, last_error = $3::jsonb where account_id = $1', [
    accountId,
    at,
    JSON.stringify(error)
  ]);
}

/** Lines of a service that arrived. */
export interface ArrivedCount {
  readonly lines: number;
  readonly bytes: number;
  readonly leftOut: number;
  readonly refused: number;
}

/** Counts what arrived, by the hour in which it did. */
export async function noteArrived(
  db: Queryable,
  accountId: number,
  service: string,
  { lines, bytes, leftOut, refused }: ArrivedCount,
  at: Instant
): Promise<void> {
  await db.rows(
    `insert into log_arrived (account_id, service, hour, lines, bytes, left_out, refused)
     select $1, $2, $3, $4, $5, $6, $7
     where exists (select 1 from accounts where id = $1)
     on conflict (account_id, service, hour) do update
     set lines = log_arrived.lines + excluded.lines, bytes = log_arrived.bytes + excluded.bytes,
       left_out = log_arrived.left_out + excluded.left_out, refused = log_arrived.refused + excluded.refused`,
    [accountId, service, Math.floor(at / hour) * hour, lines, bytes, leftOut, refused]
  );
}

/** What arrived of an account since a moment, by service. */
export const arrivedSinceByService = (
  db: Queryable,
  accountId: number,
  since: Instant
): Promise<(ArrivedCount & { readonly service: string })[]> =>
  db.rows(
    `select service, sum(lines)::float8 as lines, sum(bytes)::float8 as bytes, sum(left_out)::float8 as "leftOut", sum(refused)::float8 as refused
     from log_arrived
     where account_id = $1 and hour >= $2
     group by service`,
    [accountId, Math.floor(since / hour) * hour]
  );
