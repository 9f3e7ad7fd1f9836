import { Refusal } from '$lib/core/problem/problem';
// channels
import { createHash, randomBytes } from 'node:crypto';
import { before, day, times, type Instant } from '$lib/core/time';
import { isTaken, oneRow, type Queryable } from '../db/pool';

export interface Channel {
  readonly id: number;
  readonly kind: 'email';
  readonly name: string;
  readonly address: string;
  readonly confirmSentAt: Instant | null;
  /** When the person behind the address agreed to receive; null while unconfirmed. */
  readonly confirmedAt: Instant | null;
  readonly createdAt: Instant;
  readonly createdBy: string;
}

const columns = `id, kind, name, address, confirm_sent_at as "confirmSentAt", confirmed_at as "confirmedAt", created_at as "createdAt", created_by as "createdBy"`;

export const allChannels = (db: Queryable): Promise<Channel[]> =>
  db.rows<Channel>(`select ${columns} from channels order by name, id`);

/** Those of some ids that no channel has. */
export async function unknownChannels(db: Queryable, ids: readonly number[]): Promise<number[]> {
  const rows = await db.rows<{ id: number }>('select id from channels where id = any($1::integer[])', [ids]);
  return ids.filter((id) => !rows.some((row) => row.id === id));
}

export async function channelById(db: Queryable, id: number): Promise<Channel | null> {
  const rows = await db.rows<Channel>(`select ${columns} from channels where id = $1`, [id]);
  return rows[0] ?? null;
}

/** How long a link to confirm is good for. */
const confirmLength = times(7, day);

/**
 * Adds an e-mail channel, unconfirmed. The link to confirm it is made when it is sent.
 *
 * @throws Refusal when a channel has that address
 */
export async function insertEmailChannel(
  db: Queryable,
  channel: { name: string; address: string; createdAt: Instant; createdBy: string }
): Promise<Channel> {
  try {
    const rows = await db.rows<Channel>(
      `insert into channels (kind, name, address, confirm_hash, confirm_sent_at, created_at, created_by)
       values ('email', $1, $2, $3, null, $4, $5)
       returning ${columns}`,
      [channel.name, channel.address, hashOf(newToken()), channel.createdAt, channel.createdBy]
    );
    return oneRow(rows);
  } catch (error) {
    if (isTaken(error))
      throw new Refusal(
        'name-taken',
        `There is a channel to ${channel.address} already.`,
        'Use that one, or give another address.',
        {
          cause: error
        }
      );
    throw error;
  }
}

/** A fresh token for a channel; the one before no longer confirms. */
export async function renewToken(db: Queryable, id: number, at: Instant): Promise<string> {
  const token = newToken();
  await db.rows('update channels set confirm_hash = $2, confirm_sent_at = $3 where id = $1', [id, hashOf(token), at]);
  return token;
}

/** The channel that a mailed token belongs to; null when there is none, or the token is older than a week. */
export async function channelByToken(db: Queryable, token: string, now: Instant): Promise<Channel | null> {
  const rows = await db.rows<Channel>(
    `select ${columns} from channels where confirm_hash = $1 and confirm_sent_at > $2`,
    [hashOf(token), before(now, confirmLength)]
  );
  return rows[0] ?? null;
}

export async function confirmChannel(db: Queryable, id: number, at: Instant): Promise<void> {
  await db.rows('update channels set confirmed_at = coalesce(confirmed_at, $2) where id = $1', [id, at]);
}

/** Removes a channel. Its messages stay, those that have not left are withdrawn; to be called in a transaction. */
export async function removeChannel(within: Queryable, id: number): Promise<void> {
  await within.rows(`update outbox set state = 'withdrawn' where channel_id = $1 and state in ('queued', 'failed')`, [
    id
  ]);
  await within.rows('delete from channels where id = $1', [id]);
}

const newToken = (): string => randomBytes(24).toString('base64url');
const hashOf = (token: string): Buffer => createHash('sha256').update(token).digest();
