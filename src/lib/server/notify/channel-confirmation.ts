// channels: what confirms them
import { createHash, randomBytes, randomInt } from 'node:crypto';
import { before, day, minute, times, type Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';
import { channelById, type Channel } from './channels';

/** How long a link to confirm is good for, and a code. */
const linkLength = times(7, day);
const codeLength = times(30, minute);
/** Wrong codes that may be typed before a new one has to be sent. */
const mostTries = 5;

/** A fresh token for a channel; the one before no longer confirms. */
export async function renewToken(db: Queryable, id: number, at: Instant): Promise<string> {
  const token = newToken();
  await renew(db, id, token, at);
  return token;
}

/** A fresh code of six digits for a channel; the one before no longer confirms. */
export async function renewCode(db: Queryable, id: number, at: Instant): Promise<string> {
  const code = String(randomInt(1_000_000)).padStart(6, '0');
  await renew(db, id, `${id} ${code}`, at);
  return code;
}

const renew = (db: Queryable, id: number, secret: string, at: Instant): Promise<unknown> =>
  db.rows('update channels set confirm_hash = $2, confirm_sent_at = $3, confirm_tries = 0 where id = $1', [
    id,
    hashOf(secret),
    at
  ]);

/** The channel that a mailed token belongs to; null when there is none, or the token is older than a week. */
export async function channelByToken(db: Queryable, token: string, now: Instant): Promise<Channel | null> {
  const rows = await db.rows<{ id: number }>(
    `select id from channels where (kind = 'email' or kind = 'text-message' and topic_id is not null) and confirm_hash = $1 and confirm_sent_at > $2`,
    [hashOf(token), before(now, linkLength)]
  );
  return rows[0] ? channelById(db, rows[0].id) : null;
}

/** Confirms a channel by the code that was sent to it. @returns whether it was that code, not older than half an hour, among the first five that were tried */
export async function confirmByCode(db: Queryable, id: number, code: string, now: Instant): Promise<boolean> {
  // One statement: however many are tried at the same time, no more than five are looked at.
  const rows = await db.rows<{ isRight: boolean }>(
    `update channels
     set confirm_tries = confirm_tries + 1,
       confirmed_at = case when confirm_hash = $3 then coalesce(confirmed_at, $2) else confirmed_at end
     where id = $1 and kind <> 'email' and confirm_sent_at > $4 and confirm_tries < $5
     returning confirm_hash = $3 as "isRight"`,
    [id, now, hashOf(`${id} ${code}`), before(now, codeLength), mostTries]
  );
  return rows[0]?.isRight ?? false;
}

/** A device no longer takes notifications: nothing is sent to it until it is set up anew. */
export async function unconfirmChannel(db: Queryable, id: number): Promise<void> {
  await db.rows('update channels set confirmed_at = null where id = $1', [id]);
}

export async function confirmChannel(db: Queryable, id: number, at: Instant): Promise<void> {
  await db.rows('update channels set confirmed_at = coalesce(confirmed_at, $2) where id = $1', [id, at]);
}

const newToken = (): string => randomBytes(24).toString('base64url');
const hashOf = (token: string): Buffer => createHash('sha256').update(token).digest();
