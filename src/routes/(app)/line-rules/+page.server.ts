import { lineRules } from '$server/logs/line-rules';
import { allAccounts } from '$server/inventory/accounts';
import { lineRight } from '$server/people/line-access';
import { bussola } from '$server/process/running';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ depends, locals: { person } }) => {
  depends('bussola:overview');
  const { db } = bussola();
  const [rules, accounts, readable] = await Promise.all([lineRules(db), allAccounts(db), lineRight.of(db, person)]);
  return {
    rules,
    accounts: accounts.map(({ id, name }) => ({ id, name })),
    /** Whether they may read some lines, so that a rule can be tried on them. */
    mayRead: readable === null || readable.length > 0
  };
};
