// boards, board_versions
import type { Board } from '$lib/core/board';
import type { Instant } from '$lib/core/time';
import { oneRow, type Database, type Queryable } from '../db/pool';

/** A board as it is kept. */
export interface KeptBoard extends Board {
  readonly id: number;
  /** Grows with every change. */
  readonly version: number;
  readonly changedAt: Instant;
  readonly changedBy: string;
}

/** One version of a board. */
export interface BoardVersion {
  readonly version: number;
  readonly board: Board;
  readonly madeAt: Instant;
  readonly madeBy: string;
}

/** Versions of a board that are kept. */
const mostVersions = 300;

interface Row {
  readonly id: number;
  readonly title: string;
  readonly content: Omit<Board, 'title'>;
  readonly version: number;
  readonly changedAt: Instant;
  readonly changedBy: string;
}
const columns = `id, title, content, version, changed_at as "changedAt", changed_by as "changedBy"`;
const fromRow = ({ title, content, ...rest }: Row): KeptBoard => ({ title, ...content, ...rest });

export async function allBoards(db: Queryable): Promise<KeptBoard[]> {
  return (await db.rows<Row>(`select ${columns} from boards order by title`)).map(fromRow);
}

export async function boardById(db: Queryable, id: number): Promise<KeptBoard | null> {
  const [row] = await db.rows<Row>(`select ${columns} from boards where id = $1`, [id]);
  return row ? fromRow(row) : null;
}

/** @throws the database's unique violation (23505) when the title is taken */
export function insertBoard(db: Database, { title, ...content }: Board, by: string, at: Instant): Promise<KeptBoard> {
  return db.transaction(async (within) => {
    const row = oneRow(
      await within.rows<Row>(
        `insert into boards (title, content, created_at, created_by, changed_at, changed_by)
         values ($1, $2, $3, $4, $3, $4)
         returning ${columns}`,
        [title, JSON.stringify(content), at, by]
      )
    );
    await keepVersion(within, row);
    return fromRow(row);
  });
}

/**
 * Changes a board that is still at the version it was read at.
 *
 * @returns null when it is gone or somebody changed it meanwhile
 * @throws the database's unique violation (23505) when the title is taken
 */
export function changeBoard(
  db: Database,
  { id, version }: Pick<KeptBoard, 'id' | 'version'>,
  { title, ...content }: Board,
  by: string,
  at: Instant
): Promise<KeptBoard | null> {
  return db.transaction(async (within) => {
    const [row] = await within.rows<Row>(
      `update boards
       set title = $3, content = $4, version = version + 1, changed_at = $5, changed_by = $6
       where id = $1 and version = $2
       returning ${columns}`,
      [id, version, title, JSON.stringify(content), at, by]
    );
    if (!row) return null;
    await keepVersion(within, row);
    return fromRow(row);
  });
}

/** Keeps what a board is now among its versions; the oldest beyond {@link mostVersions} go. */
async function keepVersion(db: Queryable, { id, version, title, content, changedAt, changedBy }: Row): Promise<void> {
  await db.rows(
    `insert into board_versions (board_id, version, title, content, made_at, made_by)
     values ($1, $2, $3, $4, $5, $6)`,
    [id, version, title, JSON.stringify(content), changedAt, changedBy]
  );
  await db.rows('delete from board_versions where board_id = $1 and version <= $2', [id, version - mostVersions]);
}

/** The versions of a board, newest first. */
export async function versionsOfBoard(db: Queryable, id: number): Promise<BoardVersion[]> {
  const rows = await db.rows<VersionRow>(
    `select version, title, content, made_at as "madeAt", made_by as "madeBy"
     from board_versions
     where board_id = $1
     order by version desc`,
    [id]
  );
  return rows.map(versionFromRow);
}

export async function versionOfBoard(db: Queryable, id: number, version: number): Promise<BoardVersion | null> {
  const [row] = await db.rows<VersionRow>(
    `select version, title, content, made_at as "madeAt", made_by as "madeBy"
     from board_versions
     where board_id = $1 and version = $2`,
    [id, version]
  );
  return row ? versionFromRow(row) : null;
}

interface VersionRow {
  readonly version: number;
  readonly title: string;
  readonly content: Omit<Board, 'title'>;
  readonly madeAt: Instant;
  readonly madeBy: string;
}
const versionFromRow = ({ title, content, ...rest }: VersionRow): BoardVersion => ({
  board: { title, ...content },
  ...rest
});

export async function removeBoard(db: Queryable, id: number): Promise<void> {
  await db.rows('delete from boards where id = $1', [id]);
}
