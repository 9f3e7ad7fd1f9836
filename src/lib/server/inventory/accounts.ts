import { Refusal, type Problem } from '$lib/core/problem/problem';
// accounts, alarm_series of one that is erased, and what ends with one that is removed
import type { Duration, Instant } from '$lib/core/time';
import { oneRow, type Queryable } from '../db/pool';
import type { AccessCheck } from '../providers/port/provider';

/** Why something failed, stored until it succeeds. */
export interface AccountError extends Pick<Problem, 'code' | 'message' | 'remedy'> {
  readonly at: Instant;
}

/** An account as everybody may see it: without its secret. Figures of its collections are put together over its services. */
export interface Account {
  readonly id: number;
  readonly name: string;
  readonly provider: string;
  readonly endpoint: string;
  readonly keyId: string;
  readonly createdAt: Instant;
  readonly createdBy: string;
  readonly secretChangedAt: Instant | null;
  /** History is wanted from here on. */
  readonly historyFrom: Instant;
  readonly lastTest: AccountTest | null;
  readonly discoveredAt: Instant | null;
  readonly discoveryTriedAt: Instant | null;
  /** By how much the provider's clock was ahead of ours at the last call. */
  readonly clockAheadMs: number | null;
  readonly lastPullAt: Instant | null;
  readonly lastSuccessAt: Instant | null;
  /** The newest error, of its discovery or of one of its services. */
  readonly lastError: AccountError | null;
  /** Services whose collection fails at present. */
  readonly failing: number;
  /** Start of the newest sample. */
  readonly newestAt: Instant | null;
  /** History still to be fetched, and all that was wanted, added up over the services that have been pulled. */
  readonly historyLeftMs: Duration;
  readonly historyWholeMs: Duration;
}

const select = `
  select accounts.id, name, provider, endpoint, key_id as "keyId", created_at as "createdAt", created_by as "createdBy",
    secret_changed_at as "secretChangedAt", history_from as "historyFrom", last_test as "lastTest", discovered_at as "discoveredAt", discovery_tried_at as "discoveryTriedAt",
    clock_ahead_ms as "clockAheadMs", collected.last_pull_at as "lastPullAt", collected.last_success_at as "lastSuccessAt",
    case
      when accounts.last_error is not null and (accounts.last_error->>'at')::bigint >= coalesce((collected.last_error->>'at')::bigint, 0) then accounts.last_error
      else collected.last_error
    end as "lastError", collected.failing, collected.newest_at as "newestAt",
    history.left_ms as "historyLeftMs", history.whole_ms as "historyWholeMs"
  from accounts
  cross join lateral (
    select max(last_pull_at) as last_pull_at, max(last_success_at) as last_success_at, max(newest_at) as newest_at,
      (count(*) filter (where last_error is not null))::integer as failing,
      (array_agg(last_error order by (last_error->>'at')::bigint desc) filter (where last_error is not null))[1] as last_error
    from collections
    where account_id = accounts.id
  ) as collected
  cross join lateral (
    select coalesce(sum((select sum(to_at - from_at) from gaps where gaps.account_id = begun.account_id and gaps.service = begun.service and kind = 'history')), 0)::bigint
        as left_ms,
      (count(*) * greatest(0, accounts.created_at - accounts.history_from))::bigint as whole_ms
    from collections as begun
    where begun.account_id = accounts.id and begun.pulled_until is not null
  ) as history`;

export interface NewAccount {
  readonly name: string;
  readonly provider: string;
  readonly endpoint: string;
  readonly keyId: string;
  readonly sealedSecret: Buffer;
  readonly createdAt: Instant;
  readonly createdBy: string;
  readonly historyFrom: Instant;
  /** What there is to say besides a credential, as JSON. */
  readonly settings?: string;
}

/**
 * Adds an account. One of the same name and provider that was removed, its history kept, is continued.
 *
 * @throws Refusal when an account of that name is there already
 */
export async function insertAccount(db: Queryable, account: NewAccount): Promise<Account> {
  const [made] = await db.rows<{ id: number }>(
    `insert into accounts (name, provider, endpoint, key_id, secret_sealed, created_at, created_by, history_from, settings)
     values ($1, $2, $3, $4, $5, $6, $7, $8, $9)
     on conflict (name) do update
     set endpoint = excluded.endpoint, key_id = excluded.key_id, secret_sealed = excluded.secret_sealed, created_at = excluded.created_at,
       created_by = excluded.created_by, history_from = excluded.history_from, settings = excluded.settings, removed_at = null, removed_by = null, discovered_at = null,
       discovery_tried_at = null, last_error = null, last_test = null, clock_ahead_ms = null
     where accounts.removed_at is not null and not accounts.erase and accounts.provider = excluded.provider
     returning id`,
    [
      account.name,
      account.provider,
      account.endpoint,
      account.keyId,
      account.sealedSecret,
      account.createdAt,
      account.createdBy,
      account.historyFrom,
      account.settings ?? null
    ]
  );
  if (!made)
    throw new Refusal(
      'name-taken',
      `There is an account named ${account.name} already.`,
      'Choose another name, or open that account.'
    );
  return oneRow(await db.rows<Account>(`${select} where accounts.id = $1`, [made.id]));
}

/** The provider of the account that holds what Bussola measures of itself. */
export const ownProvider = 'bussola';

/** Every account that people connected or that programs send to, and the one of derived metrics; what Bussola measures of itself is not among them. */
export const allAccounts = (db: Queryable): Promise<Account[]> =>
  db.rows<Account>(`${select} where removed_at is null and provider <> '${ownProvider}' order by name`);

/** The names of all accounts that anything is stored of, also of such as were removed. */
export const namesOfAccounts = async (db: Queryable): Promise<Map<number, string>> =>
  new Map(
    (await db.rows<{ id: number; name: string }>('select id, name from accounts')).map(({ id, name }) => [id, name])
  );

/** What the schedule asks of every account, several times a second. */
export type ScheduledAccount = Pick<Account, 'id' | 'provider' | 'discoveredAt' | 'discoveryTriedAt'>;

export const scheduledAccounts = (db: Queryable): Promise<ScheduledAccount[]> =>
  db.rows<ScheduledAccount>(
    'select id, provider, discovered_at as "discoveredAt", discovery_tried_at as "discoveryTriedAt" from accounts where removed_at is null order by name'
  );

export async function accountById(db: Queryable, id: number): Promise<Account | null> {
  const rows = await db.rows<Account>(`${select} where accounts.id = $1 and removed_at is null`, [id]);
  return rows[0] ?? null;
}

/** Every sealed secret, with the name of its account. */
export const sealedSecrets = (db: Queryable): Promise<{ account: string; secret: Buffer }[]> =>
  db.rows('select name as account, secret_sealed as secret from accounts where length(secret_sealed) > 0 order by id');

export async function sealedSecretOf(db: Queryable, id: number): Promise<Buffer> {
  return oneRow(await db.rows<{ secret_sealed: Buffer }>('select secret_sealed from accounts where id = $1', [id]))
    .secret_sealed;
}

/** Puts another credential in the place of an account's; whatever is under way ends with the old one. */
export async function replaceCredential(
  db: Queryable,
  id: number,
  credential: { readonly keyId: string; readonly sealedSecret: Buffer },
  at: Instant
): Promise<void> {
  await db.rows('update accounts set key_id = $2, secret_sealed = $3, secret_changed_at = $4 where id = $1', [
    id,
    credential.keyId,
    credential.sealedSecret,
    at
  ]);
}

/** Lets the account of a key be reached at another address. */
export async function replaceEndpoint(db: Queryable, keyId: string, endpoint: string): Promise<void> {
  await db.rows('update accounts set endpoint = $2 where key_id = $1 and endpoint <> $2', [keyId, endpoint]);
}

/** An account that was removed while its history stays, or is being erased. */
export interface RemovedAccount extends Pick<Account, 'id' | 'name' | 'provider'> {
  readonly removedAt: Instant;
  readonly removedBy: string;
  readonly erase: boolean;
  /** The share of its samples that is erased, 0 to 1; null where nothing is being erased, or not yet. */
  readonly erased: number | null;
}

export const removedAccounts = (db: Queryable): Promise<RemovedAccount[]> =>
  db.rows<RemovedAccount>(
    `select id, name, provider, removed_at as "removedAt", removed_by as "removedBy", erase,
       case when erase and erase_total is not null then 1 - erase_left::float8 / greatest(erase_total, 1) end as erased
     from accounts
     where removed_at is not null
     order by name`
  );

/**
 * Ends an account: its credential is forgotten and its keys are revoked, nothing is collected any more, its resources have ended and what was open on them is closed. To be called in a
 * transaction.
 *
 * @param erase whether what was collected from it is to be erased; else it stays readable
 * @returns whether there was one; one that was removed before can still be erased
 */
export async function markRemoved(
  within: Queryable,
  id: number,
  { erase, at, by }: { readonly erase: boolean; readonly at: Instant; readonly by: string }
): Promise<boolean> {
  const [removed] = await within.rows<{ name: string }>(
    `update accounts
     set removed_at = coalesce(removed_at, $2), removed_by = coalesce(removed_by, $3), erase = erase or $4, key_id = '', secret_sealed = ''
     where id = $1
     returning name`,
    [id, at, by, erase]
  );
  if (!removed) return false;
  await within.rows('update keys set revoked_at = $2 where account_id = $1 and revoked_at is null', [id, at]);
  await within.rows('update resources set ended_at = $2 where account_id = $1 and ended_at is null', [id, at]);
  await within.rows(
    `update incidents set closed_at = $2 where closed_at is null and (account_id = $1 or labels ->> 'account' = $3)`,
    [id, at, removed.name]
  );
  for (const table of ['gaps', 'collections', 'pulls', 'intake_errors', 'targets'])
    await within.rows(`delete from ${table} where account_id = $1`, [id]);
  return true;
}

/** Forgets an account whose samples are erased, with its resources, series, plans and events, and how alarms stood on them. @returns whether it was to be */
export const deleteAccount = async (db: Queryable, id: number): Promise<boolean> =>
  (
    await db.rows(
      `with gone as (delete from accounts where id = $1 and erase returning id),
         states as (delete from alarm_series using gone where alarm_series.account_id = gone.id)
       select id from gone`,
      [id]
    )
  ).length > 0;

/** Notes how many rows of its samples are left while they are erased; the first time, how many there were. */
export async function noteErasing(db: Queryable, id: number, left: number): Promise<void> {
  await db.rows(
    'update accounts set erase_left = $2, erase_total = coalesce(erase_total, $2) where id = $1 and erase',
    [id, left]
  );
}

/** Whether the history of an account is still to be erased. */
export const isToErase = async (db: Queryable, id: number): Promise<boolean> =>
  (await db.rows('select from accounts where id = $1 and erase', [id])).length > 0;

/** What is left of the history of an account that was removed is not to be erased any more. @returns whether it was to be */
export const keepHistory = async (db: Queryable, id: number): Promise<boolean> =>
  (
    await db.rows(
      'update accounts set erase = false, erase_left = null, erase_total = null where id = $1 and erase and removed_at is not null returning id',
      [id]
    )
  ).length > 0;

/** Notes how a discovery went. */
export async function noteDiscovery(db: Queryable, id: number, at: Instant, error: AccountError | null): Promise<void> {
  await db.rows(
    `update accounts
     set discovery_tried_at = $2, last_error = $3::jsonb, discovered_at = case when $3::jsonb is null then $2 else discovered_at end
     where id = $1`,
    [id, at, error === null ? null : JSON.stringify(error)]
  );
}

/** The newest test of an account's credential. */
export interface AccountTest {
  readonly at: Instant;
  readonly checks: readonly AccessCheck[];
}

export async function saveTest(db: Queryable, id: number, test: AccountTest): Promise<void> {
  await db.rows('update accounts set last_test = $2 where id = $1', [id, JSON.stringify(test)]);
}

/** Lets the next heartbeat discover an account again. */
export async function wantDiscovery(db: Queryable, id: number): Promise<void> {
  await db.rows('update accounts set discovery_tried_at = null where id = $1', [id]);
}

export async function noteClock(db: Queryable, id: number, aheadMs: number): Promise<void> {
  await db.rows('update accounts set clock_ahead_ms = $2 where id = $1', [id, aheadMs]);
}

export async function eventCursor(db: Queryable, id: number, feed: string): Promise<string | null> {
  const rows = await db.rows<{ cursor: string | null }>(
    'select event_cursors->>$2 as cursor from accounts where id = $1',
    [id, feed]
  );
  return rows[0]?.cursor ?? null;
}

export async function saveEventCursor(db: Queryable, id: number, feed: string, cursor: string): Promise<void> {
  await db.rows(
    `update accounts set event_cursors = event_cursors || jsonb_build_object($2::text, $3::text) where id = $1`,
    [id, feed, cursor]
  );
}
