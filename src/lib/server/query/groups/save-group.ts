import type { GroupDefinition } from '$lib/core/group';
import { isTaken } from '../../db/pool';
import type { Context } from '../../db/context';
import { changeGroup, insertGroup, type Group } from './groups';

/**
 * Keeps a group: a new one, or in place of one that is there.
 *
 * @returns `taken` when another has the name, null when the one to replace is gone
 */
export async function saveGroup(
  { db, clock, changes }: Context,
  id: number | null,
  definition: GroupDefinition,
  by: string
): Promise<Group | 'taken' | null> {
  try {
    const at = clock.now();
    const kept =
      id === null ? await insertGroup(db, definition, by, at) : await changeGroup(db, id, definition, by, at);
    // What alarms pick by this group may be other series now.
    changes.tell('definition', { alarmId: null });
    return kept;
  } catch (error) {
    if (isTaken(error)) return 'taken';
    throw error;
  }
}
