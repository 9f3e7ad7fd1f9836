import { Refusal } from '$lib/core/problem/problem';
import { nextChange, type Shelving } from '$lib/core/shelving';
import type { Context } from '../db/context';
import { currentShelvings, endShelving, insertShelving, type StoredShelving } from './shelvings';

/** Shelvings that may be in force or planned at the same time. */
const mostShelvings = 500;

/** Shelves something, now or later. @throws Refusal `invalid` for one that is over, or when there are too many */
export async function addShelving(
  { db, clock, changes }: Context,
  shelving: Shelving,
  by: string
): Promise<StoredShelving> {
  const at = clock.now();
  if (nextChange(shelving, at) === null)
    throw new Refusal('invalid', 'This time is over already.', 'Choose a later end.', { path: ['to'] });
  if ((await currentShelvings(db)).length >= mostShelvings)
    throw new Refusal('invalid', `There are ${mostShelvings} shelvings, which is the most.`, 'End one first.');
  const made = await insertShelving(db, shelving, { at, by });
  changes.tell('routing', {});
  return made;
}

/** Ends a shelving before its time: of what is still raised, people are notified. @throws Refusal `not-found` */
export async function endNow({ db, clock, changes }: Context, id: number, by: string): Promise<void> {
  if (!(await endShelving(db, id, clock.now(), by)))
    throw new Refusal('not-found', 'There is no such shelving.', 'It may be over. See what is held back.');
  changes.tell('routing', {});
}
