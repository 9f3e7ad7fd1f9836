// sessions
import { createHash, randomBytes } from 'node:crypto';
import { after, day, times, type Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';
import type { Person } from './people';

/** How long a sign-in lasts. */
export const sessionLength = times(7, day);

/** @returns the token for the cookie; only its hash is stored */
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

/** A session that continues. */
export interface Session {
  readonly person: Person;
  /** Which one it is, without giving it away. */
  readonly key: string;
  readonly expiresAt: Instant;
}

/** The session of a cookie's token; null when it has ended. */
export async function sessionOf(db: Queryable, token: string, now: Instant): Promise<Session | null> {
  const rows = await db.rows<Person & { expiresAt: Instant }>(
    `select people.id, name, display_name as "displayName", role, zone, expires_at as "expiresAt"
     from sessions
     join people on people.id = person_id
     where token_hash = $1 and expires_at > $2`,
    [hashOf(token), now]
  );
  if (!rows[0]) return null;
  const { expiresAt, ...person } = rows[0];
  return { person, key: sessionKey(token), expiresAt };
}

/** Which session a token is of, without giving it away. */
export const sessionKey = (token: string): string => hashOf(token).toString('hex');

export async function endSession(db: Queryable, token: string): Promise<void> {
  await db.rows('delete from sessions where token_hash = $1', [hashOf(token)]);
}

export async function forgetSessions(db: Queryable, now: Instant): Promise<void> {
  await db.rows('delete from sessions where expires_at <= $1', [now]);
}

const hashOf = (token: string): Buffer => createHash('sha256').update(token).digest();
