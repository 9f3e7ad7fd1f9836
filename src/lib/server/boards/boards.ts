// boards, board_versions, board_rights
import { boardForm, type Board, type Sharing } from '$lib/core/board';
import { readableOf, readStored, unreadableOf } from '$lib/core/forms/stored';
import type { Problem } from '$lib/core/problem/problem';
import type { Instant } from '$lib/core/time';
import { oneRow, type Database, type Queryable } from '../db/pool';

/** A board as it is stored. */
export interface StoredBoard extends Board {
  readonly id: number;
  /** Grows with every change. */
  readonly version: number;
  readonly changedAt: Instant;
  readonly changedBy: string;
  readonly sharing: BoardSharing;
}

/** With whom a board is shared, and to whom it belongs: null when that person is gone. */
export interface BoardSharing extends Sharing {
  readonly owner: number | null;
  readonly ownerName: string | null;
}

/** Who makes or changes something; without an id for what no person of the workspace does. */
export interface Author {
  readonly id: number | null;
  readonly displayName: string;
}

/** Who is signed in, as the author of what they do. */
export const authorOf = (person: { readonly id: number; readonly displayName: string } | null): Author => ({
  id: person?.id ?? null,
  displayName: person?.displayName ?? ''
});

/** One version of a board. */
export interface BoardVersion {
  readonly version: number;
  readonly board: Board;
  readonly madeAt: Instant;
  readonly madeBy: string;
}

/** Versions of a board that are stored. */
const mostVersions = 300;

interface Row {
  readonly id: number;
  readonly title: string;
  readonly content: unknown;
  readonly version: number;
  readonly changedAt: Instant;
  readonly changedBy: string;
  readonly owner: number | null;
  readonly ownerName: string | null;
  readonly reach: Sharing['reach'];
  readonly everyone: Sharing['everyone'];
  readonly named: Sharing['named'];
}
const sharing = `owner_id as owner,
  (select display_name from people where people.id = owner_id) as "ownerName", reach, everyone,
  coalesce((
    select jsonb_agg(
      case when person_id is null then jsonb_build_object('role', role, 'may', may) else jsonb_build_object('person', person_id, 'may', may) end
      order by person_id, role)
    from board_rights
    where board_id = boards.id), '[]') as named`;
const columns = `id, title, content, version, changed_at as "changedAt", changed_by as "changedBy", ${sharing}`;
const fromRow = ({ title, content, owner, ownerName, reach, everyone, named, ...rest }: Row): StoredBoard => ({
  ...boardFrom(title, content),
  ...rest,
  sharing: { owner, ownerName, reach, everyone, named }
});

/** A board as it was stored, its title beside it. @throws Refusal when that cannot be read */
const boardFrom = (title: string, content: unknown): Board =>
  readStored(boardForm, { ...(content as object | null), title }, title);
const contentOf = ({ title: _, ...content }: Board): string =>
  JSON.stringify({ version: boardForm.version, ...content });

const allRows = (db: Queryable): Promise<Row[]> => db.rows<Row>(`select ${columns} from boards order by title`);

/** Every board that can be read. */
export const allBoards = async (db: Queryable): Promise<StoredBoard[]> => readableOf(await allRows(db), fromRow);

/** Why some boards cannot be read. */
export const unreadableBoards = async (db: Queryable): Promise<Problem[]> => unreadableOf(await allRows(db), fromRow);

/** A board as lists show it. */
export interface BoardSummary extends Pick<
  StoredBoard,
  'id' | 'title' | 'about' | 'service' | 'version' | 'changedAt' | 'changedBy' | 'sharing'
> {
  /** Titles of its panels, of some only when they are many. */
  readonly panels: readonly string[];
}

/** All boards as lists show them, without what is on them. */
export async function boardSummaries(db: Queryable): Promise<BoardSummary[]> {
  const rows = await db.rows<
    BoardSharing &
      Omit<BoardSummary, 'sharing' | 'about' | 'service'> & { about: string | null; service: string | null }
  >(
    `select id, title, content ->> 'about' as about, content ->> 'service' as service, version, changed_at as "changedAt", changed_by as "changedBy",
       jsonb_path_query_array(content, '$.panels[0 to 49].title') as panels, ${sharing}
     from boards
     order by title`
  );
  return rows.map(({ id, title, about, service, version, changedAt, changedBy, panels, ...shared }) => ({
    id,
    title,
    ...(about === null ? {} : { about }),
    ...(service === null ? {} : { service }),
    version,
    changedAt,
    changedBy,
    panels,
    sharing: shared
  }));
}

/** Titles of all boards with whom they are shared, without what is on them. */
export async function boardTitles(db: Queryable): Promise<Pick<StoredBoard, 'id' | 'title' | 'sharing'>[]> {
  const rows = await db.rows<BoardSharing & { id: number; title: string }>(
    `select id, title, ${sharing} from boards order by title`
  );
  return rows.map(({ id, title, ...shared }) => ({ id, title, sharing: shared }));
}

export async function boardById(db: Queryable, id: number): Promise<StoredBoard | null> {
  const [row] = await db.rows<Row>(`select ${columns} from boards where id = $1`, [id]);
  return row ? fromRow(row) : null;
}

/** @throws the database's unique violation (23505) when the title is taken */
export const insertBoard = (db: Database, board: Board, by: Author, at: Instant): Promise<StoredBoard> =>
  db.transaction((within) => insertBoardWithin(within, board, by, at));

/** {@link insertBoard} as a part of a transaction. */
export async function insertBoardWithin(
  within: Queryable,
  board: Board,
  by: Author,
  at: Instant
): Promise<StoredBoard> {
  const row = oneRow(
    await within.rows<Row>(
      `insert into boards (title, content, created_at, created_by, changed_at, changed_by, owner_id)
       values ($1, $2, $3, $4, $3, $4, $5)
       returning ${columns}`,
      [board.title, contentOf(board), at, by.displayName, by.id]
    )
  );
  await keepVersion(within, row);
  return fromRow(row);
}

/**
 * Changes a board that is still at the version it was read at.
 *
 * @returns null when it is gone or somebody changed it meanwhile
 * @throws the database's unique violation (23505) when the title is taken
 */
export function changeBoard(
  db: Database,
  { id, version }: Pick<StoredBoard, 'id' | 'version'>,
  board: Board,
  by: Author,
  at: Instant
): Promise<StoredBoard | null> {
  return db.transaction(async (within) => {
    const [row] = await within.rows<Row>(
      `update boards
       set title = $3, content = $4, version = version + 1, changed_at = $5, changed_by = $6
       where id = $1 and version = $2
       returning ${columns}`,
      [id, version, board.title, contentOf(board), at, by.displayName]
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
  return readableOf(rows, versionFromRow);
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
  readonly content: unknown;
  readonly madeAt: Instant;
  readonly madeBy: string;
}
const versionFromRow = ({ title, content, ...rest }: VersionRow): BoardVersion => ({
  board: boardFrom(title, content),
  ...rest
});

/**
 * Shares a board with others than before.
 *
 * @throws the database's unique violation (23505) when its title is taken there, its foreign key violation (23503) when a person is not known
 */
export async function shareBoard(db: Database, id: number, { reach, everyone, named }: Sharing): Promise<void> {
  await db.transaction(async (within) => {
    await within.rows('update boards set reach = $2, everyone = $3 where id = $1', [id, reach, everyone]);
    await within.rows('delete from board_rights where board_id = $1', [id]);
    for (const one of named)
      await within.rows('insert into board_rights (board_id, person_id, role, may) values ($1, $2, $3, $4)', [
        id,
        'person' in one ? one.person : null,
        'role' in one ? one.role : null,
        one.may
      ]);
  });
}

export async function removeBoard(db: Queryable, id: number): Promise<void> {
  await db.rows('delete from boards where id = $1', [id]);
}
