// sessions
import { createHash, randomBytes } from 'node:crypto';
import { after, day, times, type Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';
import type { Person } from './people';

/** How long a sign-in lasts. */
export const sessionLength = times(7, day);

/** @returns the token for the cookie; only its hash is kept */
export async function beginSession(db: Queryable, personId: number, now: Instant): Promise<string> {
  const token = randomBytes(32).toString('base64url');
  await db.rows('insert into sessions (token_hash, person_id, created_at, expires_at) values ($1, $2, $3, $4)', [
    hashOf(token),
    personId,
    now,
    after(now, sessionLength)
  ]);
  return token;
}

export async function personOfSession(db: Queryable, token: string, now: Instant): Promise<Person | null> {
  const rows = await db.rows<Person>(
    `select people.id, name, display_name as "displayName", role, zone
     from sessions
     join people on people.id = person_id
     where token_hash = $1 and expires_at > $2`,
    [hashOf(token), now]
  );
  return rows[0] ?? null;
}

export async function endSession(db: Queryable, token: string): Promise<void> {
  await db.rows('delete from sessions where token_hash = $1', [hashOf(token)]);
}

export async function forgetSessions(db: Queryable, now: Instant): Promise<void> {
  await db.rows('delete from sessions where expires_at <= $1', [now]);
}

const hashOf = (token: string): Buffer => createHash('sha256').update(token).digest();
