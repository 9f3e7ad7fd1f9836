// sessions
import { createHash, randomBytes } from 'node:crypto';
import { after, day, times, type Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';
import type { Person } from './people';

/** How long a sign-in lasts. */
export const sessionLength = times(7, day);
/** Characters of what a browser calls itself that are stored. */
const mostAgent = 200;

/** From where somebody signs in. */
export interface SignInFrom {
  readonly address: string;
  readonly agent: string;
}

/** @returns the token for the cookie; only its hash is stored */
export async function beginSession(
  db: Queryable,
  personId: number,
  now: Instant,
  { address, agent }: SignInFrom = { address: '', agent: '' }
): Promise<string> {
  const token = randomBytes(32).toString('base64url');
  await db.rows(
    `insert into sessions (token_hash, person_id, created_at, expires_at, address, agent)
     values ($1, $2, $3, $4, $5, $6)`,
    [hashOf(token), personId, now, after(now, sessionLength), address, agent.slice(0, mostAgent)]
  );
  return token;
}

/** A session that continues. */
export interface Session {
  readonly person: Person;
  /** Which one it is, without giving it away. */
  readonly key: string;
  readonly expiresAt: Instant;
  /** When they signed in. */
  readonly beganAt: Instant;
}

/** The session of a cookie's token; null when it has ended. */
export async function sessionOf(db: Queryable, token: string, now: Instant): Promise<Session | null> {
  const rows = await db.rows<Person & { expiresAt: Instant; beganAt: Instant }>(
    `select people.id, name, display_name as "displayName", role, zone, date_locale as "dateLocale", expires_at as "expiresAt", sessions.created_at as "beganAt"
     from sessions
     join people on people.id = person_id
     where token_hash = $1 and expires_at > $2 and disabled_at is null`,
    [hashOf(token), now]
  );
  if (!rows[0]) return null;
  const { expiresAt, beganAt, ...person } = rows[0];
  return { person, key: sessionKey(token), expiresAt, beganAt };
}

/** Which session a token is of, without giving it away. */
export const sessionKey = (token: string): string => hashOf(token).toString('hex');

export async function endSession(db: Queryable, token: string): Promise<void> {
  await db.rows('delete from sessions where token_hash = $1', [hashOf(token)]);
}

/** A session as its owner sees it. */
export interface ListedSession extends SignInFrom {
  readonly id: number;
  readonly key: string;
  readonly createdAt: Instant;
  readonly expiresAt: Instant;
}

/** The sessions of a person that continue, the newest first. */
export const sessionsOf = (db: Queryable, personId: number, now: Instant): Promise<ListedSession[]> =>
  db.rows<ListedSession>(
    `select id, encode(token_hash, 'hex') as key, created_at as "createdAt", expires_at as "expiresAt", address, agent
     from sessions
     where person_id = $1 and expires_at > $2
     order by created_at desc, id desc`,
    [personId, now]
  );

/**
 * Ends sessions of a person.
 *
 * @param which ids of those that end; null for all
 * @param but the key of one that goes on
 * @returns the keys of those that ended
 */
export async function endSessionsOf(
  db: Queryable,
  personId: number,
  which: readonly number[] | null,
  but: string | null = null
): Promise<string[]> {
  const rows = await db.rows<{ key: string }>(
    `delete from sessions
     where person_id = $1 and ($2::integer[] is null or id = any($2)) and encode(token_hash, 'hex') is distinct from $3
     returning encode(token_hash, 'hex') as key`,
    [personId, which, but]
  );
  return rows.map(({ key }) => key);
}

export async function forgetSessions(db: Queryable, now: Instant): Promise<void> {
  await db.rows('delete from sessions where expires_at <= $1', [now]);
}

const hashOf = (token: string): Buffer => createHash('sha256').update(token).digest();

/** When each person signed in last, of the sessions that are there, by their ids. */
export async function lastSignIns(db: Queryable): Promise<ReadonlyMap<number, Instant>> {
  const rows = await db.rows<{ personId: number; at: Instant }>(
    'select person_id as "personId", max(created_at) as at from sessions group by person_id'
  );
  return new Map(rows.map(({ personId, at }) => [personId, at]));
}
