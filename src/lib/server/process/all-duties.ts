import { sentKinds } from '$lib/core/notify';
import type { Queryable } from '../db/pool';
import { accountDuty } from '../duties/duties';
import { dutyOf } from '../notify/deliver';

/** What one of several engines does for all accounts, by the names that the work itself gives. */
const forAll: readonly string[] = [
  ...['derived metrics', 'history', 'tidying', 'erasing', 'measuring', 'sealing', 'sealing lines'],
  ...sentKinds.map(dutyOf)
];

/** Names of everything that one of several engines does at a time. */
export async function allDuties(db: Queryable): Promise<string[]> {
  const accounts = await db.rows<{ id: number }>('select id from accounts order by id');
  return [...forAll, ...accounts.map(({ id }) => accountDuty(id))];
}
