// groups
import { readableOf, readStored, unreadableOf, writeStored } from '$lib/core/forms/stored';
import { groupForm, type GroupDefinition } from '$lib/core/group';
import type { Problem } from '$lib/core/problem/problem';
import type { Instant } from '$lib/core/time';
import { oneRow, type Queryable } from '../../db/pool';

export interface Group extends GroupDefinition {
  readonly id: number;
  readonly changedAt: Instant;
  readonly changedBy: string;
}

type Row = Omit<Group, 'rule'> & { readonly rule: unknown };
const columns = `id, name, rule, changed_at as "changedAt", changed_by as "changedBy"`;

const fromRow = (row: Row): Group => ({ ...row, rule: readStored(groupForm, row.rule, row.name) });

const allRows = (db: Queryable): Promise<Row[]> => db.rows<Row>(`select ${columns} from groups order by name`);

/** Every group that can be read. */
export const allGroups = async (db: Queryable): Promise<Group[]> => readableOf(await allRows(db), fromRow);

/** Why some groups cannot be read. */
export const unreadableGroups = async (db: Queryable): Promise<Problem[]> => unreadableOf(await allRows(db), fromRow);

export async function groupById(db: Queryable, id: number): Promise<Group | null> {
  const [row] = await db.rows<Row>(`select ${columns} from groups where id = $1`, [id]);
  return row ? fromRow(row) : null;
}

/** @throws the database's unique violation (23505) when the name is taken */
export async function insertGroup(
  db: Queryable,
  { name, rule }: GroupDefinition,
  by: string,
  at: Instant
): Promise<Group> {
  const rows = await db.rows<Row>(
    `insert into groups (name, rule, created_at, created_by, changed_at, changed_by)
     values ($1, $2, $3, $4, $3, $4)
     returning ${columns}`,
    [name, writeStored(groupForm, rule), at, by]
  );
  return fromRow(oneRow(rows));
}

/** @throws the database's unique violation (23505) when the name is taken */
export async function changeGroup(
  db: Queryable,
  id: number,
  { name, rule }: GroupDefinition,
  by: string,
  at: Instant
): Promise<Group | null> {
  const [row] = await db.rows<Row>(
    `update groups
     set name = $2, rule = $3, changed_at = $4, changed_by = $5
     where id = $1
     returning ${columns}`,
    [id, name, writeStored(groupForm, rule), at, by]
  );
  return row ? fromRow(row) : null;
}

export async function removeGroup(db: Queryable, id: number): Promise<void> {
  await db.rows('delete from groups where id = $1', [id]);
}
