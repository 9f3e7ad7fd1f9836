import { Refusal } from '$lib/core/problem/problem';
import type { Context } from '../../db/context';
import { unlessDeadlocked } from '../../db/deadlocks';
import type { Queryable } from '../../db/pool';
import {
  deleteAccount,
  isToErase,
  keepHistory,
  markRemoved,
  noteErasing,
  removedAccounts
} from '../../inventory/accounts';
import { rowsOfSamples } from '../../store/erase';
import type { StoreClient } from '../../store/open-store';

/**
 * Removes an account. Its credential is erased and its keys are revoked at once. Incidents stay in any case, under the names they had.
 *
 * @param erase whether what was collected is erased too, by {@link eraseRemoved}; else boards still show it for as long as its plans say, and connecting an account of the same name and
 *   provider takes it up again
 * @throws Refusal `not-found`; `in-use` for the account of derived metrics
 */
export async function removeAccount(
  { db, clock, changes }: Context,
  id: number,
  { erase, by }: { readonly erase: boolean; readonly by: string }
): Promise<void> {
  const at = clock.now();
  // What is pulled of it meanwhile locks the same rows in the order in which they arrived.
  await unlessDeadlocked(() => db.transaction((within) => remove(within)));
  changes.tell('account', { accountId: id });

  async function remove(within: Queryable): Promise<void> {
    const [derived] = await within.rows('select 1 from derived where account_id = $1 limit 1', [id]);
    if (derived)
      throw new Refusal('in-use', 'Derived metrics are stored in this account.', 'Remove the derived metrics first.');
    if (!(await markRemoved(within, id, { erase, at, by })))
      throw new Refusal(
        'not-found',
        'There is no such account.',
        'It may have been removed. See the list of accounts.'
      );
  }
}

/**
 * Stops erasing the history of an account that was removed: what is erased is gone, the rest stays for as long as its plans say.
 *
 * @throws Refusal `not-found` where nothing is being erased any more
 */
export async function stopErasing({ db, changes }: Context, id: number): Promise<void> {
  if (!(await keepHistory(db, id)))
    throw new Refusal('not-found', 'Nothing of it is being erased.', 'It is erased already, or was never to be.');
  changes.tell('account', { accountId: id });
}

/**
 * Erases what was collected from accounts that were removed with their history, some at a time: how far it is is stored, and it stops where somebody wants the rest. Killed in between, the next call
 * continues.
 *
 * @returns how many were erased
 */
export async function eraseRemoved({
  db,
  store,
  changes
}: Pick<Context, 'db' | 'changes'> & { readonly store: Pick<StoreClient, 'samples'> }): Promise<number> {
  const due = (await removedAccounts(db)).filter(({ erase }) => erase);
  let erased = 0;
  for (const { id } of due) {
    let left = await rowsOfSamples(db, id);
    await noteErasing(db, id, left);
    for (let removed = 1; removed > 0 && (await isToErase(db, id)); left -= removed) {
      changes.tell('account', { accountId: id });
      removed = await store.samples.eraseSome(id);
      await noteErasing(db, id, Math.max(0, left - removed));
    }
    if (await deleteAccount(db, id)) {
      erased++;
      await store.samples.erase(id); // what was under way when it was removed
    } else await store.samples.forgetErased();
    changes.tell('account', { accountId: id });
  }
  return erased;
}
