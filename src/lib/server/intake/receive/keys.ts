// keys
import { createHash, randomBytes } from 'node:crypto';
import type { KeyScope } from '$lib/core/people/key-scopes';
import type { Instant } from '$lib/core/time';
import { oneRow, type Queryable } from '../../db/pool';
import { insertAccount } from '../../inventory/accounts';

/** A key as people see it: never itself, only how it begins. */
export interface Key {
  readonly id: number;
  readonly accountId: number;
  readonly name: string;
  /** How the key begins. */
  readonly hint: string;
  readonly scopes: readonly KeyScope[];
  readonly createdAt: Instant;
  readonly createdBy: string;
  /** Who made it; null when they are gone, or for one made before this was noted. */
  readonly ownerId: number | null;
  readonly expiresAt: Instant | null;
  readonly revokedAt: Instant | null;
  readonly lastUsedAt: Instant | null;
  readonly mostSeries: number;
  readonly mostBytesADay: number;
  readonly bytesToday: number;
  /** The UTC day that `bytesToday` counts, as days since the epoch. */
  readonly dayOfBytes: number;
}

const columns = `id, account_id as "accountId", name, hint, scopes, created_at as "createdAt", created_by as "createdBy", owner_id as "ownerId", expires_at as "expiresAt",
  revoked_at as "revokedAt", last_used_at as "lastUsedAt", most_series as "mostSeries", most_bytes_a_day as "mostBytesADay", bytes_today as "bytesToday",
  day_of_bytes as "dayOfBytes"`;

const day = 86_400_000;
const hashOf = (text: string): Buffer => createHash('sha256').update(text).digest();

export interface NewKey {
  readonly name: string;
  readonly expiresAt: Instant | null;
  readonly mostSeries: number;
  readonly mostBytesADay: number;
  readonly createdAt: Instant;
  readonly createdBy: string;
  readonly ownerId?: number | null;
  /** Sending metrics and marks, when this is not given. */
  readonly scopes?: readonly KeyScope[];
}

/**
 * Makes a key with an account of its own for what is sent by it; to be called in a transaction.
 *
 * @returns the key itself, which is shown once and of which only the hash is stored
 * @throws Refusal when an account has that name
 */
export async function makeKey(within: Queryable, key: NewKey): Promise<{ key: Key; text: string }> {
  const text = `bussola-${randomBytes(24).toString('base64url')}`;
  const { id: accountId } = await insertAccount(within, {
    name: key.name,
    provider: 'pushed',
    endpoint: '',
    keyId: text.slice(0, 14),
    sealedSecret: Buffer.alloc(0),
    createdAt: key.createdAt,
    createdBy: key.createdBy,
    historyFrom: key.createdAt
  });
  const rows = await within.rows<Key>(
    `insert into keys (account_id, name, hint, hash, scopes, created_at, created_by, expires_at, most_series, most_bytes_a_day, owner_id)
     values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11)
     returning ${columns}`,
    [
      accountId,
      key.name,
      text.slice(0, 14),
      hashOf(text),
      JSON.stringify(key.scopes ?? ['metrics', 'marks']),
      key.createdAt,
      key.createdBy,
      key.expiresAt,
      key.mostSeries,
      key.mostBytesADay,
      key.ownerId ?? null
    ]
  );
  return { key: oneRow(rows), text };
}

export const allKeys = (db: Queryable): Promise<Key[]> =>
  db.rows<Key>(`select ${columns} from keys order by revoked_at is not null, name`);

export async function revokeKey(db: Queryable, id: number, at: Instant): Promise<void> {
  await db.rows('update keys set revoked_at = coalesce(revoked_at, $2) where id = $1', [id, at]);
}

/** The key behind a text that was sent; null when there is none, or it has been revoked or has run out. */
export async function keyByText(db: Queryable, text: string, now: Instant): Promise<Key | null> {
  const rows = await db.rows<Key>(
    `select ${columns} from keys where hash = $1 and revoked_at is null and (expires_at is null or expires_at > $2)`,
    [hashOf(text), now]
  );
  return rows[0] ?? null;
}

/** The UTC day of a moment, as days since the epoch. */
export const dayOf = (now: Instant): number => Math.floor(now / day);

/** Bytes a key has sent on the day of a moment. */
export const bytesOn = ({ bytesToday, dayOfBytes }: Key, now: Instant): number =>
  dayOfBytes === dayOf(now) ? bytesToday : 0;

/** What a key sent on one day, and when it did last. */
export interface KeyUse {
  readonly id: number;
  readonly bytes: number;
  readonly at: Instant;
}

/** Counts uses of keys, one of each. */
export async function noteUses(db: Queryable, uses: readonly KeyUse[]): Promise<void> {
  await db.rows(
    `update keys
     set last_used_at = used.at, bytes_today = case when day_of_bytes = used.day then bytes_today + used.bytes else used.bytes end, day_of_bytes = used.day
     from unnest($1::integer[], $2::bigint[], $3::integer[], $4::bigint[]) as used (id, at, day, bytes)
     where keys.id = used.id`,
    [
      uses.map(({ id }) => id),
      uses.map(({ at }) => at),
      uses.map(({ at }) => dayOf(at)),
      uses.map(({ bytes }) => bytes)
    ]
  );
}
