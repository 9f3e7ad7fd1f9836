// derived
import { readableOf, readStored, unreadableOf, writeStored } from '$lib/core/forms/stored';
import type { Problem } from '$lib/core/problem/problem';
import { signalForm, type Signal } from '$lib/core/signal';
import type { Instant } from '$lib/core/time';
import { oneRow, type Queryable } from '../../db/pool';

/** A metric that is computed from others, and how it does. */
export interface Derived {
  readonly id: number;
  readonly accountId: number;
  readonly name: string;
  /** Its name among all metrics. */
  readonly metric: string;
  readonly definition: Signal;
  readonly enabled: boolean;
  readonly createdBy: string;
  readonly computedUntil: Instant | null;
  /** What is still to be computed for the past; null when nothing is. */
  readonly backfillFrom: Instant | null;
  readonly backfillUntil: Instant | null;
  readonly lastRunAt: Instant | null;
  readonly lastError: { readonly message: string; readonly remedy: string } | null;
  readonly series: number;
  /** Points written in all. */
  readonly points: number;
  /** How long the last run took. */
  readonly milliseconds: number;
}

type Row = Omit<Derived, 'definition'> & { readonly definition: unknown };
const columns = `id, account_id as "accountId", name, metric, definition, enabled, created_by as "createdBy", computed_until as "computedUntil",
  backfill_from as "backfillFrom", backfill_until as "backfillUntil", last_run_at as "lastRunAt", last_error as "lastError", series, points, milliseconds`;

const derivedForm = { ...signalForm, what: 'The derived metric' };
const fromRow = (row: Row): Derived => ({ ...row, definition: readStored(derivedForm, row.definition, row.name) });

const allRows = (db: Queryable): Promise<Row[]> => db.rows<Row>(`select ${columns} from derived order by name`);

/** Every derived metric that can be read. */
export const allDerived = async (db: Queryable): Promise<Derived[]> => readableOf(await allRows(db), fromRow);

/** Why some derived metrics cannot be read. */
export const unreadableDerived = async (db: Queryable): Promise<Problem[]> => unreadableOf(await allRows(db), fromRow);

export async function derivedById(db: Queryable, id: number): Promise<Derived | null> {
  const [row] = await db.rows<Row>(`select ${columns} from derived where id = $1`, [id]);
  return row ? fromRow(row) : null;
}

/** @throws the database's unique violation (23505) when the name is taken */
export async function insertDerived(
  db: Queryable,
  { accountId, name, metric, definition }: Pick<Derived, 'accountId' | 'name' | 'metric' | 'definition'>,
  by: string,
  at: Instant
): Promise<Derived> {
  const rows = await db.rows<Row>(
    `insert into derived (account_id, name, metric, definition, created_at, created_by)
     values ($1, $2, $3, $4, $5, $6)
     returning ${columns}`,
    [accountId, name, metric, writeStored(derivedForm, definition), at, by]
  );
  return fromRow(oneRow(rows));
}

export async function switchDerived(db: Queryable, id: number, enabled: boolean): Promise<void> {
  await db.rows('update derived set enabled = $2 where id = $1', [id, enabled]);
}

/** Requests a span of the past to be computed; what was asked before and is not done yet is widened. */
export async function askBackfill(db: Queryable, id: number, from: Instant, until: Instant): Promise<void> {
  await db.rows(
    `update derived
     set backfill_from = least(backfill_from, $2), backfill_until = greatest(backfill_until, $3)
     where id = $1`,
    [id, from, until]
  );
}

/** What one run came to. */
export interface DerivedRun {
  readonly at: Instant;
  readonly computedUntil: Instant | null;
  readonly series: number;
  readonly points: number;
  readonly milliseconds: number;
  readonly error: Derived['lastError'];
}

export async function noteRun(db: Queryable, id: number, run: DerivedRun): Promise<void> {
  await db.rows(
    `update derived
     set last_run_at = $2, computed_until = coalesce($3, computed_until), series = case when $7::jsonb is null then $4 else series end,
       points = points + $5, milliseconds = $6, last_error = $7
     where id = $1`,
    [
      id,
      run.at,
      run.computedUntil,
      run.series,
      run.points,
      run.milliseconds,
      run.error === null ? null : JSON.stringify(run.error)
    ]
  );
}

/** Notes that the past from an instant on is computed; at the beginning of what was asked, nothing is left. */
export async function noteBackfilled(db: Queryable, id: number, from: Instant, points: number): Promise<void> {
  await db.rows(
    `update derived
     set backfill_until = case when $2 <= backfill_from then null else $2 end, backfill_from = case when $2 <= backfill_from then null else backfill_from end,
       points = points + $3
     where id = $1`,
    [id, from, points]
  );
}

/** Removes the definition; what was stored stays until it is older than its retention. */
export async function removeDerived(db: Queryable, id: number): Promise<void> {
  await db.rows('delete from derived where id = $1', [id]);
}
