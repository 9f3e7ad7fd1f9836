// reachability_checks, reachability_attempts
import { readableOf, readStored, unreadableOf, writeStored } from '$lib/core/forms/stored';
import type { Problem } from '$lib/core/problem/problem';
import { checkForm, type Attempt, type Check, type CheckState, type Standing } from '$lib/core/reachability';
import type { Instant } from '$lib/core/time';
import { oneRow, type Queryable } from '../db/pool';

export interface StoredCheck {
  readonly id: number;
  readonly check: Check;
  /** Rises with each change. */
  readonly version: number;
  readonly changedAt: Instant;
  readonly changedBy: string;
  readonly standing: Standing;
  /** The newest attempt; null before the first. */
  readonly last: Attempt | null;
}

const columns = `id, definition, version, changed_at as "changedAt", changed_by as "changedBy", is_up as "isUp", since, failures, last_attempt as last`;
type Row = Omit<StoredCheck, 'check' | 'standing'> &
  Pick<Standing, 'since' | 'failures'> & { readonly definition: unknown; readonly isUp: boolean | null };
const fromRow = ({ definition, isUp, since, failures, ...rest }: Row): StoredCheck => ({
  ...rest,
  check: readStored(checkForm, definition, `${rest.id}`),
  standing: { state: stateOf(isUp), since, failures }
});
const stateOf = (isUp: boolean | null): CheckState => (isUp === null ? 'unknown' : isUp ? 'up' : 'down');
const isUpOf = ({ state }: Standing): boolean | null => (state === 'unknown' ? null : state === 'up');

const allRows = (db: Queryable): Promise<Row[]> =>
  db.rows<Row>(`select ${columns} from reachability_checks order by lower(definition ->> 'name'), id`);

/** Every check that can be read, by name. */
export const allChecks = async (db: Queryable): Promise<StoredCheck[]> => readableOf(await allRows(db), fromRow);

/** Why some checks cannot be read. */
export const unreadableChecks = async (db: Queryable): Promise<Problem[]> => unreadableOf(await allRows(db), fromRow);

/** @returns null when there is none */
export async function checkById(db: Queryable, id: number): Promise<StoredCheck | null> {
  const [row] = await db.rows<Row>(`select ${columns} from reachability_checks where id = $1`, [id]);
  return row ? fromRow(row) : null;
}

interface Author {
  readonly at: Instant;
  readonly by: string;
}

/** Adds a check; its first attempt is due at once. */
export const insertCheck = async (db: Queryable, check: Check, { at, by }: Author): Promise<StoredCheck> =>
  fromRow(
    oneRow(
      await db.rows<Row>(
        `insert into reachability_checks (definition, changed_at, changed_by, due_at) values ($1, $2, $3, $2) returning ${columns}`,
        [writeStored(checkForm, check), at, by]
      )
    )
  );

/**
 * Changes a check. How it stood is forgotten, since that was of what it looked at before; its next attempt is due at once.
 *
 * @returns null when it is not of that version any more, or gone
 */
export async function replaceCheck(
  db: Queryable,
  id: number,
  version: number,
  check: Check,
  { at, by }: Author
): Promise<StoredCheck | null> {
  const [row] = await db.rows<Row>(
    `update reachability_checks
     set definition = $3, version = version + 1, changed_at = $4, changed_by = $5, is_up = null, since = null, failures = 0, last_attempt = null,
       tried_at = null, due_at = $4, claimed_until = null
     where id = $1 and version = $2
     returning ${columns}`,
    [id, version, writeStored(checkForm, check), at, by]
  );
  return row ? fromRow(row) : null;
}

/** @returns whether it was there */
export const deleteCheck = async (db: Queryable, id: number): Promise<boolean> =>
  (await db.rows('delete from reachability_checks where id = $1 returning id', [id])).length > 0;

/**
 * Takes checks that are due, so that no other process makes the same attempt. A clock that was set back makes those due that were tried later than now.
 *
 * @param until when the claim ends by itself, should this process end
 */
export async function claimDue(db: Queryable, now: Instant, until: Instant, most: number): Promise<StoredCheck[]> {
  const rows = await db.rows<Row>(
    `update reachability_checks
     set claimed_until = $2
     where id in (
       select id
       from reachability_checks
       where (due_at <= $1 or tried_at > $1) and (claimed_until is null or claimed_until <= $1 or claimed_until > $2)
         and definition -> 'enabled' = 'true'
       order by due_at
       limit $3
       for update skip locked)
     returning ${columns}`,
    [now, until, most]
  );
  return readableOf(rows, fromRow);
}

/** Lets others take a check whose attempt was not finished. */
export async function releaseClaim(db: Queryable, { id, version }: Pick<StoredCheck, 'id' | 'version'>): Promise<void> {
  await db.rows('update reachability_checks set claimed_until = null where id = $1 and version = $2', [id, version]);
}

/**
 * Writes down what an attempt came to, unless the check was changed meanwhile.
 *
 * @param dueAt when the next attempt is due
 * @returns whether it counts
 */
export async function noteAttempt(
  db: Queryable,
  { id, version }: Pick<StoredCheck, 'id' | 'version'>,
  made: Attempt,
  standing: Standing,
  dueAt: Instant
): Promise<boolean> {
  const noted = await db.rows(
    `update reachability_checks
     set is_up = $3, since = $4, failures = $5, last_attempt = $6, tried_at = $7, due_at = $8, claimed_until = null
     where id = $1 and version = $2
     returning id`,
    [id, version, isUpOf(standing), standing.since, standing.failures, JSON.stringify(made), made.at, dueAt]
  );
  return noted.length > 0;
}

/** Remembers an attempt that is worth a look: it failed, or changed how the check stands. */
export async function saveAttempt(db: Queryable, checkId: number, made: Attempt, standing: Standing): Promise<void> {
  await db.rows(
    `insert into reachability_attempts (check_id, at, attempt, is_up)
     select $1, $2, $3, $4
     where exists (select from reachability_checks where id = $1)
     on conflict (check_id, at) do nothing`,
    [checkId, made.at, JSON.stringify(made), isUpOf(standing)]
  );
}

/** An attempt that was remembered, and how the check stood after it. */
export interface SavedAttempt {
  readonly attempt: Attempt;
  readonly state: CheckState;
}

/** Remembered attempts of a check, newest first. */
export async function attemptsOf(
  db: Queryable,
  checkId: number,
  most: number,
  before: number | null = null
): Promise<SavedAttempt[]> {
  const rows = await db.rows<{ attempt: Attempt; isUp: boolean | null }>(
    `select attempt, is_up as "isUp" from reachability_attempts where check_id = $1 and ($3::bigint is null or at < $3) order by at desc limit $2`,
    [checkId, most, before]
  );
  return rows.map(({ attempt, isUp }) => ({ attempt, state: stateOf(isUp) }));
}

/** Removes remembered attempts from before an instant. */
export async function forgetAttempts(db: Queryable, until: Instant): Promise<void> {
  await db.rows('delete from reachability_attempts where at < $1', [until]);
}
