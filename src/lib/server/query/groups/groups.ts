// groups
import type { GroupDefinition } from '$lib/core/group';
import type { Instant } from '$lib/core/time';
import { oneRow, type Queryable } from '../../db/pool';

export interface Group extends GroupDefinition {
  readonly id: number;
  readonly changedAt: Instant;
  readonly changedBy: string;
}

const columns = `id, name, rule, changed_at as "changedAt", changed_by as "changedBy"`;

export const allGroups = (db: Queryable): Promise<Group[]> =>
  db.rows<Group>(`select ${columns} from groups order by name`);

export async function groupById(db: Queryable, id: number): Promise<Group | null> {
  const rows = await db.rows<Group>(`select ${columns} from groups where id = $1`, [id]);
  return rows[0] ?? null;
}

/** @throws the database's unique violation (23505) when the name is taken */
export async function insertGroup(
  db: Queryable,
  { name, rule }: GroupDefinition,
  by: string,
  at: Instant
): Promise<Group> {
  return oneRow(
    await db.rows<Group>(
      `insert into groups (name, rule, created_at, created_by, changed_at, changed_by)
       values ($1, $2, $3, $4, $3, $4)
       returning ${columns}`,
      [name, JSON.stringify(rule), at, by]
    )
  );
}

/** @throws the database's unique violation (23505) when the name is taken */
export async function changeGroup(
  db: Queryable,
  id: number,
  { name, rule }: GroupDefinition,
  by: string,
  at: Instant
): Promise<Group | null> {
  const rows = await db.rows<Group>(
    `update groups
     set name = $2, rule = $3, changed_at = $4, changed_by = $5
     where id = $1
     returning ${columns}`,
    [id, name, JSON.stringify(rule), at, by]
  );
  return rows[0] ?? null;
}

export async function removeGroup(db: Queryable, id: number): Promise<void> {
  await db.rows('delete from groups where id = $1', [id]);
}
