// channels
import { createHash, randomBytes } from 'node:crypto';
import type { Instant } from '$lib/core/time';
import { isTaken, oneRow, type Queryable } from '../db/pool';
import { Refusal } from '../refusal';

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

export async function channelById(db: Queryable, id: number): Promise<Channel | null> {
  const rows = await db.rows<Channel>(`select ${columns} from channels where id = $1`, [id]);
  return rows[0] ?? null;
}

/**
 * Adds an e-mail channel, unconfirmed.
 *
 * @returns the channel and the token to be mailed to it; only the token's hash is kept
 * @throws Refusal when a channel has that address
 */
export async function insertEmailChannel(
  db: Queryable,
  channel: { name: string; address: string; createdAt: Instant; createdBy: string }
): Promise<{ channel: Channel; token: string }> {
  const token = randomBytes(24).toString('base64url');
  try {
    const rows = await db.rows<Channel>(
      `insert into channels (kind, name, address, confirm_hash, confirm_sent_at, created_at, created_by)
       values ('email', $1, $2, $3, $4, $4, $5)
       returning ${columns}`,
      [channel.name, channel.address, hashOf(token), channel.createdAt, channel.createdBy]
    );
    return { channel: oneRow(rows), token };
  } catch (error) {
    if (isTaken(error))
      throw new Refusal(`There is a channel to ${channel.address} already.`, 'Use that one, or give another address.', {
        cause: error
      });
    throw error;
  }
}

/** A fresh token for a channel; the one before no longer confirms. */
export async function renewToken(db: Queryable, id: number, at: Instant): Promise<string> {
  const token = randomBytes(24).toString('base64url');
  await db.rows('update channels set confirm_hash = $2, confirm_sent_at = $3 where id = $1', [id, hashOf(token), at]);
  return token;
}

/** The channel that a mailed token belongs to, if any. */
export async function channelByToken(db: Queryable, token: string): Promise<Channel | null> {
  const rows = await db.rows<Channel>(`select ${columns} from channels where confirm_hash = $1`, [hashOf(token)]);
  return rows[0] ?? null;
}

export async function confirmChannel(db: Queryable, id: number, at: Instant): Promise<void> {
  await db.rows('update channels set confirmed_at = coalesce(confirmed_at, $2) where id = $1', [id, at]);
}

export async function removeChannel(db: Queryable, id: number): Promise<void> {
  await db.rows('delete from channels where id = $1', [id]);
}

const hashOf = (token: string): Buffer => createHash('sha256').update(token).digest();
