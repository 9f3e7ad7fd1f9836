// boards
import type { Panel } from '$lib/core/board';
import type { Instant } from '$lib/core/time';
import { oneRow, type Queryable } from '../db/pool';

export interface KeptBoard {
  readonly id: number;
  readonly title: string;
  readonly panels: readonly Panel[];
  /** Grows with every change. */
  readonly version: number;
  readonly changedAt: Instant;
  readonly changedBy: string;
}

const columns = `id, title, panels, version, changed_at as "changedAt", changed_by as "changedBy"`;

export const allBoards = (db: Queryable): Promise<KeptBoard[]> =>
  db.rows<KeptBoard>(`select ${columns} from boards order by title`);

export async function boardById(db: Queryable, id: number): Promise<KeptBoard | null> {
  const rows = await db.rows<KeptBoard>(`select ${columns} from boards where id = $1`, [id]);
  return rows[0] ?? null;
}

/** @throws the database's unique violation (23505) when the title is taken */
export async function insertBoard(
  db: Queryable,
  { title, panels }: Pick<KeptBoard, 'title' | 'panels'>,
  by: string,
  at: Instant
): Promise<KeptBoard> {
  return oneRow(
    await db.rows<KeptBoard>(
      `insert into boards (title, panels, created_at, created_by, changed_at, changed_by)
       values ($1, $2, $3, $4, $3, $4)
       returning ${columns}`,
      [title, JSON.stringify(panels), at, by]
    )
  );
}

/**
 * Changes a board that is still at the version it was read at.
 *
 * @returns null when it is gone or somebody changed it meanwhile
 * @throws the database's unique violation (23505) when the title is taken
 */
export async function changeBoard(
  db: Queryable,
  { id, title, panels, version }: Pick<KeptBoard, 'id' | 'title' | 'panels' | 'version'>,
  by: string,
  at: Instant
): Promise<KeptBoard | null> {
  const rows = await db.rows<KeptBoard>(
    `update boards
     set title = $3, panels = $4, version = version + 1, changed_at = $5, changed_by = $6
     where id = $1 and version = $2
     returning ${columns}`,
    [id, version, title, JSON.stringify(panels), at, by]
  );
  return rows[0] ?? null;
}

export async function removeBoard(db: Queryable, id: number): Promise<void> {
  await db.rows('delete from boards where id = $1', [id]);
}
