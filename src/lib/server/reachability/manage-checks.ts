import { Refusal } from '$lib/core/problem/problem';
import type { Check } from '$lib/core/reachability';
import { changedMeanwhile } from '../base/changed-meanwhile';
import type { Context } from '../db/context';
import { allChecks, checkById, deleteCheck, insertCheck, replaceCheck, type StoredCheck } from './checks';

/** Checks that there may be: each is an attempt every 15 seconds at most. */
const mostChecks = 500;

/** Adds a check. @throws Refusal `invalid` when there are too many */
export async function addCheck({ db, clock, changes }: Context, check: Check, by: string): Promise<StoredCheck> {
  const made = await db.transaction(async (within) => {
    await within.rows('lock table reachability_checks in share row exclusive mode');
    if ((await allChecks(within)).length >= mostChecks)
      throw new Refusal('invalid', `There are ${mostChecks} checks, which is the most.`, 'Remove one first.');
    return insertCheck(within, check, { at: clock.now(), by });
  });
  changes.tell('reachability', { checkId: null });
  return made;
}

/**
 * Changes a check; its next attempt is due at once.
 *
 * @param version of the check as whoever changes it has seen it
 * @throws Refusal `not-found`, `changed-meanwhile`
 */
export async function saveCheck(
  { db, clock, changes }: Context,
  id: number,
  version: number,
  check: Check,
  by: string
): Promise<StoredCheck> {
  const saved = await replaceCheck(db, id, version, check, { at: clock.now(), by });
  if (saved === null) throw changedMeanwhile(await checkById(db, id), 'check', noSuchCheck);
  changes.tell('reachability', { checkId: null });
  return saved;
}

/** Removes a check; the history of its metrics stays. @throws Refusal `not-found` */
export async function removeCheck({ db, changes }: Context, id: number): Promise<void> {
  if (!(await deleteCheck(db, id))) throw noSuchCheck();
  changes.tell('reachability', { checkId: null });
}

const noSuchCheck = () => new Refusal('not-found', 'There is no such check.', 'See the list of checks.');
