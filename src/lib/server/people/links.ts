// person_links
import { createHash, randomBytes } from 'node:crypto';
import { after, day, hour, minute, times, type Duration, type Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';

/** What a link, or a half sign-in, is for. */
export type LinkKind = 'first' | 'invitation' | 'reset' | 'factor';

/** How long each is good for. */
export const linkLengths: Readonly<Record<LinkKind, Duration>> = {
  first: day,
  invitation: times(7, day),
  reset: hour,
  factor: times(5, minute)
};
/** Codes that may be typed with one half sign-in. */
const mostTries = 5;

/**
 * Makes a secret for a person, or for whoever becomes the first. One of the same kind that was made before counts no more.
 *
 * @returns the secret; only its hash is stored
 * @example await makeLink(db, 'reset', 3, now) // 'Yk0…'
 */
export async function makeLink(db: Queryable, kind: LinkKind, personId: number | null, now: Instant): Promise<string> {
  const token = randomBytes(24).toString('base64url');
  // Somebody may sign in from two browsers at once.
  if (kind !== 'factor')
    await db.rows('delete from person_links where kind = $1 and person_id is not distinct from $2::integer', [
      kind,
      personId
    ]);
  await db.rows('insert into person_links (token_hash, kind, person_id, expires_at) values ($1, $2, $3, $4)', [
    hashOf(token),
    kind,
    personId,
    after(now, linkLengths[kind])
  ]);
  return token;
}

export interface PersonLink {
  readonly kind: LinkKind;
  readonly personId: number | null;
}

/** What a secret is of; null when it is unknown, used, expired, or of somebody who is disabled. */
export async function linkBy(db: Queryable, kind: LinkKind, token: string, now: Instant): Promise<PersonLink | null> {
  const [row] = await db.rows<PersonLink>(
    `select kind, person_id as "personId"
     from person_links
     left join people on people.id = person_id
     where token_hash = $1 and kind = $2 and expires_at > $3 and disabled_at is null`,
    [hashOf(token), kind, now]
  );
  return row ?? null;
}

/** Uses a secret up. @returns as {@link linkBy} does; of two who use it at once, one gets it */
export async function takeLink(
  within: Queryable,
  kind: LinkKind,
  token: string,
  now: Instant
): Promise<PersonLink | null> {
  const link = await linkBy(within, kind, token, now);
  if (link === null) return null;
  const taken = await within.rows('delete from person_links where token_hash = $1 returning 1', [hashOf(token)]);
  return taken.length > 0 ? link : null;
}

/**
 * Counts a try with a half sign-in before it is looked whether its code is right: many at once count like many one after the other.
 *
 * @returns whose it is; null when it has had all its tries, or is no longer good for anything
 */
export async function countTry(db: Queryable, token: string, now: Instant): Promise<number | null> {
  const [row] = await db.rows<{ personId: number }>(
    `update person_links set tries = tries + 1
     where token_hash = $1 and kind = 'factor' and expires_at > $2 and tries < $3
     returning person_id as "personId"`,
    [hashOf(token), now, mostTries]
  );
  return row?.personId ?? null;
}

/** Takes all links of a person back, such as when they are disabled or have a new password. */
export async function forgetLinksOf(db: Queryable, personId: number): Promise<void> {
  await db.rows('delete from person_links where person_id = $1', [personId]);
}

export async function forgetLinks(db: Queryable, now: Instant): Promise<void> {
  await db.rows('delete from person_links where expires_at <= $1', [now]);
}

const hashOf = (token: string): Buffer => createHash('sha256').update(token).digest();
