import { allRates, costSettings } from '$server/cost/cost-settings';
import { billStandings } from '$server/cost/cost-view';
import { allAccounts } from '$server/inventory/accounts';
import { bussola } from '$server/process/running';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ depends }) => {
  depends('bussola:costs');
  const { db, clock } = bussola();
  const [bills, rates, { currency }, accounts] = await Promise.all([
    billStandings(db),
    allRates(db),
    costSettings(db),
    allAccounts(db)
  ]);
  return { bills, rates, currency, accounts: accounts.map(({ id, name }) => ({ id, name })), now: clock.now() };
};
