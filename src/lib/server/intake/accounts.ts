// accounts, pulls
import type { Instant } from '$lib/core/time';
import { isTaken, oneRow, type Queryable } from '../db/pool';
import { Refusal } from '../refusal';

/** Why the last pull failed, kept until one succeeds. */
export interface AccountError {
  readonly fault: string;
  readonly message: string;
  readonly remedy: string;
  readonly at: Instant;
}

/** An account as everybody may see it: without its secret. */
export interface Account {
  readonly id: number;
  readonly name: string;
  readonly provider: string;
  readonly endpoint: string;
  readonly keyId: string;
  readonly intervalMs: number;
  readonly createdAt: Instant;
  readonly createdBy: string;
  readonly lastPullAt: Instant | null;
  readonly lastSuccessAt: Instant | null;
  readonly lastError: AccountError | null;
  /** Start of the newest sample. */
  readonly newestAt: Instant | null;
  readonly discoveredAt: Instant | null;
  /** Everything up to here has been asked for. */
  readonly pulledUntil: Instant | null;
  /** History is wanted from here … */
  readonly historyFrom: Instant;
  /** … and has been fetched, newest first, down to here. */
  readonly historyReached: Instant | null;
}

const columns = `id, name, provider, endpoint, key_id as "keyId", interval_ms as "intervalMs", created_at as "createdAt", created_by as "createdBy",
  last_pull_at as "lastPullAt", last_success_at as "lastSuccessAt", last_error as "lastError", newest_at as "newestAt",
  discovered_at as "discoveredAt", pulled_until as "pulledUntil", history_from as "historyFrom", history_reached as "historyReached"`;

export interface NewAccount {
  readonly name: string;
  readonly provider: string;
  readonly endpoint: string;
  readonly keyId: string;
  readonly sealedSecret: Buffer;
  readonly createdAt: Instant;
  readonly createdBy: string;
  readonly historyFrom: Instant;
}

/** @throws Refusal when an account of that name is there already */
export async function insertAccount(db: Queryable, account: NewAccount): Promise<Account> {
  try {
    return oneRow(
      await db.rows<Account>(
        `insert into accounts (name, provider, endpoint, key_id, secret_sealed, created_at, created_by, history_from)
         values ($1, $2, $3, $4, $5, $6, $7, $8)
         returning ${columns}`,
        [
          account.name,
          account.provider,
          account.endpoint,
          account.keyId,
          account.sealedSecret,
          account.createdAt,
          account.createdBy,
          account.historyFrom
        ]
      )
    );
  } catch (error) {
    if (isTaken(error))
      throw new Refusal(
        `There is an account named ${account.name} already.`,
        'Choose another name, or open that account.',
        { cause: error }
      );
    throw error;
  }
}

export const allAccounts = (db: Queryable): Promise<Account[]> =>
  db.rows<Account>(`select ${columns} from accounts order by name`);

export async function accountById(db: Queryable, id: number): Promise<Account | null> {
  const rows = await db.rows<Account>(`select ${columns} from accounts where id = $1`, [id]);
  return rows[0] ?? null;
}

export async function sealedSecretOf(db: Queryable, id: number): Promise<Buffer> {
  return oneRow(await db.rows<{ secret_sealed: Buffer }>('select secret_sealed from accounts where id = $1', [id]))
    .secret_sealed;
}

/** Lets the account of a key be reached at another address. */
export async function replaceEndpoint(db: Queryable, keyId: string, endpoint: string): Promise<void> {
  await db.rows('update accounts set endpoint = $2 where key_id = $1 and endpoint <> $2', [keyId, endpoint]);
}

/** Notes how a pull went, for the account and in the list of pulls. */
export async function notePull(
  db: Queryable,
  id: number,
  pull: {
    readonly startedAt: Instant;
    readonly finishedAt: Instant;
    readonly points: number;
    readonly refused: number;
    readonly error: AccountError | null;
    readonly newestAt: Instant | null;
    readonly pulledUntil: Instant | null;
  }
): Promise<void> {
  await db.rows(
    `update accounts
     set last_pull_at = $2,
       last_success_at = case when $3::jsonb is null then $2 else last_success_at end,
       last_error = $3::jsonb,
       newest_at = greatest(newest_at, $4),
       pulled_until = greatest(pulled_until, $5)
     where id = $1`,
    [id, pull.finishedAt, pull.error === null ? null : JSON.stringify(pull.error), pull.newestAt, pull.pulledUntil]
  );
  await db.rows(
    `insert into pulls (account_id, started_at, finished_at, points, refused, error_kind)
     select $1, $2, $3, $4, $5, $6
     where exists (select 1 from accounts where id = $1)
     on conflict (account_id, started_at)
     do update set points = pulls.points + excluded.points, refused = pulls.refused + excluded.refused, finished_at = excluded.finished_at, error_kind = excluded.error_kind`,
    [id, pull.startedAt, pull.finishedAt, pull.points, pull.refused, pull.error?.fault ?? null]
  );
}

export async function noteDiscovery(db: Queryable, id: number, at: Instant): Promise<void> {
  await db.rows('update accounts set discovered_at = $2 where id = $1', [id, at]);
}

export async function noteHistory(db: Queryable, id: number, reached: Instant): Promise<void> {
  await db.rows('update accounts set history_reached = $2 where id = $1', [id, reached]);
}

/** Points arrived and values refused per account since a moment. */
export async function arrivedSince(
  db: Queryable,
  since: Instant
): Promise<{ accountId: number; points: number; refused: number }[]> {
  return db.rows(
    `select account_id as "accountId", sum(points)::bigint as points, sum(refused)::bigint as refused
     from pulls
     where started_at >= $1
     group by account_id`,
    [since]
  );
}

/** One figure for each pull of an account since a moment, oldest first. */
export async function pullsOf(
  db: Queryable,
  id: number,
  since: Instant
): Promise<{ at: Instant; points: number; failed: boolean }[]> {
  return db.rows(
    `select started_at as at, points, error_kind is not null as failed
     from pulls
     where account_id = $1 and started_at >= $2
     order by started_at`,
    [id, since]
  );
}

export async function forgetPulls(db: Queryable, before: Instant): Promise<void> {
  await db.rows('delete from pulls where started_at < $1', [before]);
}
