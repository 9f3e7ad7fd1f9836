import { dayOf, type DatedRate, type DayNumber } from '$lib/core/cost';
import { Refusal } from '$lib/core/problem/problem';
import type { Context } from '../db/context';
import { accountById } from '../inventory/accounts';
import type { FocusPreview, StoredBill } from './cost-book';
import { forgetSampled } from './cost-days';
import { allRates, costSettings, deleteRate, saveCurrency, saveRate } from './cost-settings';
import type { CostClient } from './open-costs';

type CostContext = Context & { readonly costs: CostClient };

/** Rates that there may be. */
const mostRates = 5000;

/** Sets a rate; costs from its day on are shown with it at once, and their samples follow. @throws Refusal `invalid` */
export async function setRate({ db, clock, changes }: Context, rate: DatedRate, by: string): Promise<void> {
  await db.transaction(async (within) => {
    const { currency } = await costSettings(within);
    if (rate.currency === currency)
      throw new Refusal('invalid', `Costs are shown in ${currency}: it needs no rate.`, 'Choose another currency.');
    if ((await allRates(within)).length >= mostRates)
      throw new Refusal('invalid', `There are ${mostRates} rates, which is the most.`, 'Remove one first.');
    await saveRate(within, rate, { at: clock.now(), by });
    await forgetSampled(within, dayOf(rate.from));
  });
  changes.tell('costs', { accountId: null });
}

/** Removes a rate: the one before it holds again. @throws Refusal `not-found` */
export async function removeRate(
  { db, changes }: Context,
  { currency, from }: Pick<DatedRate, 'currency' | 'from'>
): Promise<void> {
  await db.transaction(async (within) => {
    if (!(await deleteRate(within, currency, from)))
      throw new Refusal('not-found', `There is no rate of ${currency} from ${from} on.`, 'See the list of rates.');
    await forgetSampled(within, dayOf(from));
  });
  changes.tell('costs', { accountId: null });
}

/** Sets the currency that costs are shown in. Rates into the one before mean nothing any more and are removed. @returns how many were */
export async function setCurrency({ db, clock, changes }: Context, currency: string, by: string): Promise<number> {
  const removed = await db.transaction(async (within) => {
    const before = await costSettings(within);
    if (before.currency === currency) return 0;
    const rates = await allRates(within);
    for (const rate of rates) await deleteRate(within, rate.currency, rate.from);
    await saveCurrency(within, currency, { at: clock.now(), by });
    await forgetSampled(within, 0 as DayNumber);
    return rates.length;
  });
  changes.tell('costs', { accountId: null });
  return removed;
}

/** What came of importing a file. */
export interface Imported extends Pick<FocusPreview, 'rejected'> {
  readonly accounts: readonly (Pick<StoredBill, 'entries'> & {
    readonly name: string;
    /** Days that are other than before. */
    readonly changed: number;
  })[];
}

/**
 * Imports bills from a FOCUS file. Of each account that is wanted, all days from its first to its last in the file are replaced.
 *
 * @param wanted ids of accounts by their names in the file
 * @throws Refusal `unreadable`, `too-large`; `not-found` for an account
 */
export async function importBills(
  { db, clock, changes, costs }: CostContext,
  file: Uint8Array,
  isGzip: boolean,
  wanted: Readonly<Record<string, number>>
): Promise<Imported> {
  for (const id of Object.values(wanted))
    if ((await accountById(db, id)) === null)
      throw new Refusal('not-found', `There is no account ${id}.`, 'See the list of accounts.');
  const { stored, rejected } = await costs.files.import(file, isGzip, wanted, clock.now());
  for (const id of Object.values(wanted)) changes.tell('costs', { accountId: id });
  return {
    rejected,
    accounts: Object.entries(stored).map(([name, { entries, changed }]) => ({ name, entries, changed: changed.length }))
  };
}
