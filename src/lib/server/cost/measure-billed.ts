import { resourceOfAccount } from '../intake/own/measure-accounts';
import type { OwnMeasures } from '../intake/own/own-account';
import type { Queryable } from '../db/pool';
import { allAccounts } from '../inventory/accounts';
import { billedAccounts } from './cost-days';

/** Accounts that nothing is collected from, but whose bills were imported: their costs are measured as those of others. */
export async function measureBilled(db: Queryable, providers: Readonly<Record<string, unknown>>): Promise<OwnMeasures> {
  const billed = await billedAccounts(db);
  const only = (await allAccounts(db)).filter(({ id, provider }) => billed.has(id) && !(provider in providers));
  return { resources: only.map(resourceOfAccount), series: [] };
}
