import { isDeepStrictEqual } from 'node:util';
import type { CollectionPlan } from '$lib/core/intake';
import type { Role } from '$lib/core/people/rights';
import { Refusal } from '$lib/core/problem/problem';
import type { Context } from '../../db/context';
import { savePlan, planOf } from './plans';

/**
 * Saves what is collected of a service of an account.
 *
 * @throws Refusal `not-allowed` when an editor changes how long samples are stored
 */
export async function changePlan(
  { db, clock, changes }: Context,
  { accountId, service, plan }: { readonly accountId: number; readonly service: string; readonly plan: CollectionPlan },
  by: { readonly displayName: string; readonly role: Role }
): Promise<void> {
  const before = await planOf(db, accountId, service);
  if (by.role !== 'administrator' && !isDeepStrictEqual(before.keep, plan.keep))
    throw new Refusal(
      'not-allowed',
      'Only administrators change retention. The plan was not changed.',
      'Leave retention as it was, or ask an administrator.'
    );
  await savePlan(db, accountId, service, plan, by.displayName, clock.now());
  changes.tell('account', { accountId });
}
