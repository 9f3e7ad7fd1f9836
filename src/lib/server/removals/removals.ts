// removals, removed_rows; alarm_work of alarms that are put back
import { before, day, times, type Instant } from '$lib/core/time';
import { oneRow, type Queryable } from '../db/pool';

/** What was removed can be restored for so long. */
export const restsFor = times(30, day);

/** Something that somebody removed. */
export interface Removal {
  readonly id: number;
  /** The first part of its address, such as `boards`. */
  readonly kind: string;
  readonly thingId: number;
  /** What it was called. */
  readonly name: string;
  readonly removedAt: Instant;
  readonly removedBy: string;
  /** Rows that went, or lost what they named. */
  readonly rows: number;
}

const columns = `removals.id, kind, thing_id as "thingId", name, removed_at as "removedAt", removed_by as "removedBy",
  (select count(*)::integer from removed_rows where removal_id = removals.id) as rows`;

/** What rests and somebody may know of, the newest first: private boards are their owners' alone. */
export const allRemovals = (db: Queryable, readerId: number, most: number): Promise<Removal[]> =>
  db.rows<Removal>(
    `select ${columns} from removals where ${isNoSecret('$1')} order by removed_at desc, id desc limit $2`,
    [readerId, most]
  );

/** Of a private board, nobody but its owner learns. */
const isNoSecret = (reader: string): string =>
  `not exists (
     select from removed_rows
     where removal_id = removals.id and table_name = 'boards' and was ->> 'reach' = 'private' and (was ->> 'owner_id')::integer is distinct from ${reader}::integer)`;

/**
 * A removal with what somebody may know of it, locked until the transaction ends.
 *
 * @returns null when it does not rest any more, or they may not know of it; `isOwn` for a board that was theirs
 */
export async function takeRemoval(
  within: Queryable,
  id: number,
  readerId: number
): Promise<(Removal & { readonly isOwn: boolean }) | null> {
  const [row] = await within.rows<Removal & { readonly isOwn: boolean }>(
    `select ${columns}, exists (
       select from removed_rows
       where removal_id = removals.id and table_name = 'boards' and becomes is null and (was ->> 'owner_id')::integer = $2::integer) as "isOwn"
     from removals
     where removals.id = $1 and ${isNoSecret('$2')}
     for update`,
    [id, readerId]
  );
  return row ?? null;
}

/** From here on, what goes in this transaction rests. @returns the id of the removal */
export async function beginRemoval(
  within: Queryable,
  { kind, thingId, name, removedAt, removedBy }: Omit<Removal, 'id' | 'rows'>
): Promise<number> {
  const { id } = oneRow(
    await within.rows<{ id: number }>(
      `insert into removals (kind, thing_id, name, removed_at, removed_by) values ($1, $2, $3, $4, $5) returning id`,
      [kind, thingId, name, removedAt, removedBy]
    )
  );
  await within.rows(`select set_config('bussola.removal', $1, true)`, [String(id)]);
  return id;
}

/** What goes in this transaction from here on is gone. A removal by which nothing went is forgotten. */
export async function endRemoval(within: Queryable, id: number): Promise<void> {
  await within.rows(`select set_config('bussola.removal', '', true)`);
  await within.rows(
    'delete from removals where id = $1 and not exists (select from removed_rows where removal_id = $1)',
    [id]
  );
}

/** The alarms that went with a removal. */
export async function alarmsOfRemoval(within: Queryable, id: number): Promise<number[]> {
  const rows = await within.rows<{ id: number }>(
    `select (was ->> 'id')::integer as id from removed_rows where removal_id = $1 and table_name = 'alarms'`,
    [id]
  );
  return rows.map((row) => row.id);
}

/** Forgets that something was removed, which was brought back by other means. */
export async function forgetRemovalOf(within: Queryable, kind: string, thingId: number): Promise<void> {
  await within.rows('delete from removals where kind = $1 and thing_id = $2', [kind, thingId]);
}

/** Restores what went with a removal, as it was; alarms are due at once. @throws the database's violations (class 23) where something else has its place now */
export async function restoreRows(within: Queryable, id: number): Promise<void> {
  await within.rows('select put_back($1)', [id]);
  await within.rows(
    `insert into alarm_work (alarm_id, due_at)
     select (was ->> 'id')::integer, 0 from removed_rows where removal_id = $1 and table_name = 'alarms'
     on conflict (alarm_id) do update
     set due_at = 0`,
    [id]
  );
  await within.rows('delete from removals where id = $1', [id]);
}

/** Forgets what has rested long enough. */
export async function forgetRemovals(db: Queryable, now: Instant): Promise<void> {
  await db.rows('delete from removals where removed_at <= $1', [before(now, restsFor)]);
}
