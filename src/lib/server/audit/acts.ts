// acts, followed_changes
import { changedBy } from '$lib/core/followers';
import { before, day, minute, times, type Instant } from '$lib/core/time';
import type { Database, Queryable } from '../db/pool';

/** How long it is stored what people did. */
export const actsKept = times(400, day);

/** By what somebody acts: a sign-in, a key, a link that was sent to them; a response that acts by itself; nobody who is known when a sign-in fails. */
export const meansOfActs = ['person', 'key', 'link', 'nobody', 'response'] as const;
export type Means = (typeof meansOfActs)[number];
export const outcomes = ['done', 'refused'] as const;
export type Outcome = (typeof outcomes)[number];

/** Something that somebody did, or was refused. */
export interface Act {
  readonly at: Instant;
  readonly personId: number | null;
  /** What they were called then. */
  readonly by: string;
  readonly means: Means;
  /** What was requested: `POST /rotas`, or a page with its action. */
  readonly act: string;
  /** The same in words. */
  readonly what: string;
  /** What it was done to, as it was called then; empty when it has no name. */
  readonly subject: string;
  /** The page of it; empty for none. */
  readonly path: string;
  readonly outcome: Outcome;
  /** From where. */
  readonly address: string;
}

/** An act as it is recorded. */
export interface NewAct extends Act {
  /** The id of what it was done to; for whoever follows changes. */
  readonly id: number | null;
}

export interface StoredAct extends Act {
  readonly id: number;
}

/** What is done again and again is written once within this. */
const oftenWithin = times(10, minute);
/** Characters of names that are stored. */
const longest = 200;

/**
 * Writes down what somebody did; nothing changes it afterwards, which the database itself sees to. Whoever follows such changes is sent it.
 *
 * @param once whether the same from the same person and place on the same thing is written once in {@link oftenWithin}: of a board that saves itself while it is edited, and of what strangers are refused, who could fill the disk. Followers are sent each
 */
export async function recordAct(db: Queryable, one: NewAct, once = false): Promise<void> {
  const [by, act, what, subject] = [one.by, one.act, one.what, one.subject].map((text) => text.slice(0, longest));
  const changed = one.outcome === 'done' ? changedBy(one.act, one.id) : null;
  const change = { action: act, what, by, means: one.means, id: changed?.id, name: subject, path: one.path };
  await db.rows(
    `with recorded as (
       insert into acts (at, person_id, by, means, act, what, subject, path, outcome, address)
       select $1::bigint, $2::integer, $3, $4, $5, $6, $7, $8, $9, $10
       where $11::bigint is null or not exists (
         select from acts
         where at > $11 and at <= $1 and person_id is not distinct from $2 and by = $3 and act = $5 and path = $8 and outcome = $9 and address = $10))
     select follow_change($12, $1, $13) where $12::text is not null`,
    [
      ...[one.at, one.personId, by, one.means, act, what, subject, one.path, one.outcome, one.address],
      once ? before(one.at, oftenWithin) : null,
      changed?.kind ?? null,
      JSON.stringify(change)
    ]
  );
}

/** Which acts are listed; what is null holds for all. */
export interface ActFilter {
  /** A part of a name, of what was done or of what it was done to, in any letter case. */
  readonly text: string | null;
  readonly personId: number | null;
  readonly outcome: Outcome | null;
  readonly from: Instant | null;
  readonly to: Instant | null;
}

/** Acts, the newest first. @param beforeId of those before one of them; null from the newest on */
export const listActs = (
  db: Queryable,
  { text, personId, outcome, from, to }: ActFilter,
  most: number,
  beforeId: number | null
): Promise<StoredAct[]> =>
  db.rows<StoredAct>(
    `select id, at, person_id as "personId", by, means, act, what, subject, path, outcome, address
     from acts
     where ($1::text is null or position(lower($1) in lower(by || ' ' || what || ' ' || subject || ' ' || address)) > 0)
       and ($2::integer is null or person_id = $2)
       and ($3::text is null or outcome = $3)
       and ($4::bigint is null or at >= $4)
       and ($5::bigint is null or at < $5)
       and ($6::bigint is null or id < $6)
     order by id desc
     limit $7`,
    [text, personId, outcome, from, to, beforeId, most]
  );

/** Removes what is older than it is stored. */
export async function forgetActs(db: Database, now: Instant): Promise<void> {
  await db.transaction(async (within) => {
    await within.rows("select set_config('bussola.forgets_acts', 'yes', true)");
    await within.rows('delete from acts where at < $1', [before(now, actsKept)]);
  });
}
