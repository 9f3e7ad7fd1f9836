// board_folders; boards (in which folder they lie)
import { z } from 'zod';
import { Refusal } from '$lib/core/problem/problem';
import type { Instant } from '$lib/core/time';
import { isTaken, oneRow, type Queryable } from '../db/pool';

/** A folder that people made for boards. */
export interface BoardFolder {
  readonly id: number;
  readonly name: string;
}

/** The most folders of a workspace. */
const mostFolders = 200;

export const folderNameSchema = z.strictObject({
  name: z.string().trim().min(1, { error: 'Give the folder a name.' }).max(60)
});

export const allFolders = (db: Queryable): Promise<BoardFolder[]> =>
  db.rows<BoardFolder>('select id, name from board_folders order by lower(name)');

/** @throws Refusal `name-taken`, in whatever letter case; `in-use` when there are too many */
export async function makeFolder(db: Queryable, name: string, by: string, at: Instant): Promise<BoardFolder> {
  if ((await allFolders(db)).length >= mostFolders)
    throw new Refusal('in-use', `There are ${mostFolders} folders already.`, 'Remove one that nobody needs.');
  return unlessTaken(name, async () =>
    oneRow(
      await db.rows<BoardFolder>(
        'insert into board_folders (name, created_at, created_by) values ($1, $2, $3) returning id, name',
        [name, at, by]
      )
    )
  );
}

/** @throws Refusal `not-found`, `name-taken` */
export async function renameFolder(db: Queryable, id: number, name: string): Promise<BoardFolder> {
  const [renamed] = await unlessTaken(name, () =>
    db.rows<BoardFolder>('update board_folders set name = $2 where id = $1 returning id, name', [id, name])
  );
  if (!renamed) throw noSuchFolder();
  return renamed;
}

/** Removes a folder; its boards stay, in the folder of their service. @throws Refusal `not-found` */
export async function removeFolder(db: Queryable, id: number): Promise<void> {
  const rows = await db.rows('delete from board_folders where id = $1 returning id', [id]);
  if (rows.length === 0) throw noSuchFolder();
}

/** Moves a board into a folder, or out of any for null. @throws Refusal `not-found` */
export async function moveBoard(db: Queryable, board: number, folder: number | null): Promise<void> {
  if (folder !== null && (await db.rows('select 1 from board_folders where id = $1', [folder])).length === 0)
    throw noSuchFolder();
  await db.rows('update boards set folder_id = $2 where id = $1', [board, folder]);
}

/** In which folder each board lies that lies in one. */
export async function folderOfBoards(db: Queryable): Promise<ReadonlyMap<number, number>> {
  const rows = await db.rows<{ id: number; folder: number }>(
    'select id, folder_id as folder from boards where folder_id is not null'
  );
  return new Map(rows.map(({ id, folder }) => [id, folder]));
}

const noSuchFolder = (): Refusal =>
  new Refusal('not-found', 'There is no such folder.', 'It may have been removed. See the list of boards.');

async function unlessTaken<Kept>(name: string, keep: () => Promise<Kept>): Promise<Kept> {
  try {
    return await keep();
  } catch (error) {
    if (!isTaken(error)) throw error;
    throw new Refusal('name-taken', `There is already a folder named ${name}.`, 'Choose another name.', {
      cause: error
    });
  }
}
