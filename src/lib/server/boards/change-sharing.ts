import type { Sharing } from '$lib/core/board';
import { Refusal } from '$lib/core/problem/problem';
import type { Context } from '../db/context';
import { isTaken, namesWhatIsGone } from '../db/pool';
import { shareBoard, type StoredBoard } from './boards';

/**
 * Changes with whom a board is shared.
 *
 * @throws Refusal `name-taken` when another board has its title where it would be seen, `not-found` for a person who is gone
 */
export async function changeSharing(
  { db, changes }: Pick<Context, 'db' | 'changes'>,
  { id, title }: Pick<StoredBoard, 'id' | 'title'>,
  sharing: Sharing
): Promise<void> {
  try {
    await shareBoard(db, id, sharing);
  } catch (error) {
    if (isTaken(error))
      throw new Refusal('name-taken', `There is already a board titled ${title}.`, 'Rename this one first.');
    if (namesWhatIsGone(error))
      throw new Refusal('not-found', 'One of the people named is no longer here.', 'Load the page again.');
    throw error;
  }
  changes.tell('board', { boardId: id });
}
