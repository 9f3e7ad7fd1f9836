// collections, pulls, intake_errors, dropped
import { mendedText } from '$lib/core/forms/storable';
import type { Instant } from '$lib/core/time';
import type { Queryable } from '../../db/pool';
import type { AccountError } from '../../inventory/accounts';

/** The service of what other programs send by themselves. */
export const pushedService = 'pushed';

/** Under which what goes wrong with events of an account is listed. */
export const eventsService = 'events';

/** How collecting one service of one account goes. */
export interface Collection {
  readonly accountId: number;
  readonly service: string;
  readonly lastPullAt: Instant | null;
  readonly lastSuccessAt: Instant | null;
  readonly lastError: AccountError | null;
  /** Start of the newest sample. */
  readonly newestAt: Instant | null;
  /** Everything up to here has been requested: metrics that come promptly, and those that come hours late. */
  readonly pulledUntil: Instant | null;
  readonly lateUntil: Instant | null;
  /** The provider asked to be left alone until then. */
  readonly notBefore: Instant | null;
}

const columns = `account_id as "accountId", service, last_pull_at as "lastPullAt", last_success_at as "lastSuccessAt", last_error as "lastError",
  newest_at as "newestAt", pulled_until as "pulledUntil", late_until as "lateUntil", not_before as "notBefore"`;

export const allCollections = (db: Queryable): Promise<Collection[]> =>
  db.rows<Collection>(`select ${columns} from collections order by account_id, service`);

export async function collectionOf(db: Queryable, accountId: number, service: string): Promise<Collection | null> {
  const rows = await db.rows<Collection>(`select ${columns} from collections where account_id = $1 and service = $2`, [
    accountId,
    service
  ]);
  return rows[0] ?? null;
}

/** Begins to collect services that were found. */
export async function beginCollections(db: Queryable, accountId: number, services: readonly string[]): Promise<void> {
  await db.rows(
    `insert into collections (account_id, service)
     select $1, service from unnest($2::text[]) as found (service)
     on conflict do nothing`,
    [accountId, services]
  );
}

/** What one pull came to. */
export interface PullOutcome {
  readonly startedAt: Instant;
  readonly finishedAt: Instant;
  readonly points: number;
  readonly requests: number;
  readonly throttled: number;
  readonly refused: number;
  readonly error: AccountError | null;
  readonly newestAt: Instant | null;
  readonly pulledUntil: Instant | null;
  readonly lateUntil: Instant | null;
  readonly notBefore: Instant | null;
  /** Values that were not stored, by reason. */
  readonly dropped?: readonly DroppedNow[];
}

/** Values that were not stored for a reason, with one of them. */
export interface DroppedNow {
  readonly reason: string;
  readonly count: number;
  readonly example: string;
}

/** Counts of what was dropped, by its reason, as $N to $N + 2 of a statement; $1 and $2 are the account and the service. */
const noteDroppedStatement = (first: number, at: string): string =>
  `insert into dropped (account_id, service, reason, count, example, last_at)
   select $1, $2, noted.*, ${at} from unnest($${first}::text[], $${first + 1}::bigint[], $${first + 2}::text[]) as noted
   on conflict (account_id, service, reason) do update
   set count = dropped.count + excluded.count, example = excluded.example, last_at = excluded.last_at`;

const droppedColumns = (dropped: readonly DroppedNow[]): unknown[] => [
  dropped.map(({ reason }) => reason),
  dropped.map(({ count }) => count),
  dropped.map(({ example }) => mendedText(example.slice(0, 300)))
];

/** Notes how a pull went: for the collection, in the list of pulls, among what was dropped, and among the errors by their cause. */
export async function notePull(
  db: Queryable,
  accountId: number,
  service: string,
  pull: PullOutcome,
  isHistory = false
): Promise<void> {
  const error = pull.error === null ? null : JSON.stringify(pull.error);
  const { dropped = [] } = pull;
  // One statement for all: it is made with every request that other programs send.
  await db.rows(
    `with noted as (
       update collections
       set last_pull_at = case when $9 then last_pull_at else $3 end,
         last_success_at = case when $4::jsonb is null and not $9 then $3 else last_success_at end,
         last_error = case when $9 and $4::jsonb is null then last_error else $4::jsonb end,
         newest_at = greatest(newest_at, $5), pulled_until = greatest(pulled_until, $6), late_until = greatest(late_until, $7),
         not_before = case when $9 and $8::bigint is null then not_before else $8::bigint end
       where account_id = $1 and service = $2
     ), fixed as (
       update intake_errors
       set mended_at = $10
       where account_id = $1 and service = $2 and mended_at is null and $4::jsonb is null and not $9
     )${dropped.length === 0 ? '' : `, gone as (${noteDroppedStatement(15, '$10')})`}
     insert into pulls (account_id, service, started_at, points, requests, throttled, refused, failed, is_history)
     select $1, $2, $3, $11, $12, $13, $14, $4::jsonb is not null, $9
     where exists (select 1 from accounts where id = $1)
     on conflict (account_id, service, started_at, is_history) do update
     set points = pulls.points + excluded.points, requests = pulls.requests + excluded.requests, throttled = pulls.throttled + excluded.throttled,
       refused = pulls.refused + excluded.refused, failed = excluded.failed`,
    [
      accountId,
      service,
      pull.startedAt, // what is due counts from the beginning of a pull
      error,
      pull.newestAt,
      pull.pulledUntil,
      pull.lateUntil,
      pull.notBefore,
      isHistory,
      pull.finishedAt,
      pull.points,
      pull.requests,
      pull.throttled,
      pull.refused,
      ...(dropped.length === 0 ? [] : droppedColumns(dropped))
    ]
  );
  if (pull.error !== null) await noteError(db, accountId, service, pull.error);
}

/** Notes that a service was not requested, since its provider is left alone: an error that stands already says more, and the pull stays due. */
export async function noteResting(
  db: Queryable,
  accountId: number,
  service: string,
  error: AccountError
): Promise<void> {
  await db.rows(
    'update collections set last_error = $3 where account_id = $1 and service = $2 and last_error is null',
    [accountId, service, JSON.stringify(error)]
  );
}

/** Notes that the feeds of events of an account fail, or that they are in order again. */
export async function noteFeeds(
  db: Queryable,
  accountId: number,
  error: AccountError | null,
  at: Instant
): Promise<void> {
  if (error !== null) return noteError(db, accountId, eventsService, error);
  await db.rows(
    'update intake_errors set mended_at = $3 where account_id = $1 and service = $2 and mended_at is null',
    [accountId, eventsService, at]
  );
}

/** Counts an error with those of the same cause, or begins a new row. */
async function noteError(db: Queryable, accountId: number, service: string, error: AccountError): Promise<void> {
  const counted = await db.rows(
    `update intake_errors
     set count = count + 1, last_at = $4, message = $5
     where account_id = $1 and service = $2 and code = $3 and mended_at is null
     returning count`,
    [accountId, service, error.code, error.at, error.message]
  );
  if (counted.length > 0) return;
  await db.rows(
    `insert into intake_errors (account_id, service, code, message, remedy, first_at, last_at, count)
     select $1, $2, $3, $4, $5, $6, $6, 1
     where exists (select 1 from accounts where id = $1)
     on conflict do nothing`,
    [accountId, service, error.code, error.message, error.remedy, error.at]
  );
}

/** Errors of one cause. */
export interface IntakeError {
  readonly accountId: number;
  readonly service: string;
  readonly code: string;
  readonly message: string;
  readonly remedy: string;
  readonly firstAt: Instant;
  readonly lastAt: Instant;
  readonly count: number;
  readonly mendedAt: Instant | null;
}

/** Errors that were seen since a moment, those not fixed first. */
export const errorsSince = (db: Queryable, since: Instant): Promise<IntakeError[]> =>
  db.rows<IntakeError>(
    `select account_id as "accountId", service, code, message, remedy, first_at as "firstAt", last_at as "lastAt", count, mended_at as "mendedAt"
     from intake_errors
     where last_at >= $1 or mended_at is null
     order by mended_at is not null, last_at desc
     limit 200`,
    [since]
  );

/** Counts values that were not stored, by reason, with the newest example. */
export async function noteDropped(
  db: Queryable,
  accountId: number,
  service: string,
  dropped: readonly DroppedNow[],
  at: Instant
): Promise<void> {
  if (dropped.length === 0) return;
  await db.rows(noteDroppedStatement(4, '$3'), [accountId, service, at, ...droppedColumns(dropped)]);
}

export interface Dropped {
  readonly accountId: number;
  readonly service: string;
  readonly reason: string;
  readonly count: number;
  readonly example: string;
  readonly lastAt: Instant;
}

export const allDropped = (db: Queryable): Promise<Dropped[]> =>
  db.rows<Dropped>(
    `select account_id as "accountId", service, reason, count, example, last_at as "lastAt" from dropped order by last_at desc limit 200`
  );

/** What arrived of each service of each account since a moment, history apart. */
export interface Arrived {
  readonly accountId: number;
  readonly service: string;
  readonly points: number;
  readonly requests: number;
  readonly throttled: number;
  readonly refused: number;
}

export const arrivedSince = (db: Queryable, since: Instant): Promise<Arrived[]> =>
  db.rows<Arrived>(
    `select account_id as "accountId", service, sum(points)::bigint as points, sum(requests)::bigint as requests, sum(throttled)::bigint as throttled,
       sum(refused)::bigint as refused
     from pulls
     where started_at >= $1 and not is_history
     group by account_id, service`,
    [since]
  );

/** Points that arrived in each cell of a time, oldest first; cells without a pull are left out. */
export const arrivedByCell = (
  db: Queryable,
  since: Instant,
  cellMs: number
): Promise<{ accountId: number; service: string; at: Instant; points: number; failed: boolean }[]> =>
  db.rows(
    `select account_id as "accountId", service, started_at / $2::bigint * $2::bigint as at, sum(points)::bigint as points, bool_or(failed) as failed
     from pulls
     where started_at >= $1 and not is_history
     group by 1, 2, 3
     order by 1, 2, 3`,
    [since, cellMs]
  );

export async function forgetPulls(db: Queryable, before: Instant): Promise<void> {
  await db.rows('delete from pulls where started_at < $1', [before]);
  await db.rows('delete from intake_errors where mended_at < $1', [before]);
}
