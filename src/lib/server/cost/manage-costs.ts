import { dateOf, dayOf, Rates, ratesInto, type DatedRate, type DayNumber } from '$lib/core/cost';
import { Refusal } from '$lib/core/problem/problem';
import type { Context } from '../db/context';
import type { Queryable } from '../db/pool';
import { accountById } from '../inventory/accounts';
import type { ImportedAccount } from './bill-files';
import type { RejectedRows } from './bill-reads';
import { forgetSampled, newestDays } from './cost-days';
import { billedCurrencies } from './cost-items';
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

/**
 * Removes a rate: the one before it holds again.
 *
 * @throws Refusal `not-found`; `in-use` for the first one of a currency that something is billed in, since costs would not be included any more
 */
export async function removeRate(
  { db, changes }: Context,
  { currency, from }: Pick<DatedRate, 'currency' | 'from'>
): Promise<void> {
  await db.transaction(async (within) => {
    const own = (await allRates(within)).filter((rate) => rate.currency === currency);
    if (!own.some((rate) => rate.from === from))
      throw new Refusal('not-found', `There is no rate of ${currency} from ${from} on.`, 'See the list of rates.');
    if (own.every((rate) => rate.from >= from) && (await billedCurrencies(within)).includes(currency))
      throw new Refusal(
        'in-use',
        `It is the first rate of ${currency}: without it, costs in ${currency} would not be included.`,
        'Add a rate from an earlier day first, or give this day another rate.'
      );
    await deleteRate(within, currency, from);
    await forgetSampled(within, dayOf(from));
  });
  changes.tell('costs', { accountId: null });
}

/**
 * Sets the currency that costs are shown in; rates become rates into it.
 *
 * @throws Refusal `in-use` where something that has a rate now would have none
 */
export async function setCurrency({ db, clock, changes }: Context, currency: string, by: string): Promise<void> {
  const author = { at: clock.now(), by };
  await db.transaction(async (within) => {
    const before = await costSettings(within);
    if (before.currency === currency) return;
    const rates = await allRates(within);
    const converted = ratesInto(currency, before.currency, rates);
    const lost = await lostBy(within, new Rates(before.currency, rates), new Rates(currency, converted));
    if (lost !== null)
      throw new Refusal(
        'in-use',
        `There is no rate from ${currency} to ${before.currency} on ${lost.from}, from when on there are costs in ${lost.currency}.`,
        `Add a rate of ${currency} from that day first: costs in ${lost.currency} would not be included.`
      );
    for (const rate of rates) await deleteRate(within, rate.currency, rate.from);
    for (const rate of converted) await saveRate(within, rate, author);
    await saveCurrency(within, currency, author);
    await forgetSampled(within, 0 as DayNumber);
  });
  changes.tell('costs', { accountId: null });
}

/** A currency that something is billed in, and the first day on which it has a rate before and none afterwards; null where there is none. */
async function lostBy(
  within: Queryable,
  before: Rates,
  after: Rates
): Promise<{ readonly currency: string; readonly from: string } | null> {
  const oldest = (await newestDays(within)).reduce((least, one) => Math.min(least, one.oldest), Infinity);
  if (!Number.isFinite(oldest)) return null;
  for (const currency of await billedCurrencies(within)) {
    const from = before.firstDay(currency, dateOf(oldest as DayNumber));
    if (from !== null && after.rateAt(currency, from) === null) return { currency, from };
  }
  return null;
}

/** What came of importing a file. */
export interface Imported {
  readonly rejected: RejectedRows;
  readonly accounts: readonly ImportedAccount[];
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
  wanted: ReadonlyMap<string, number>
): Promise<Imported> {
  for (const id of wanted.values())
    if ((await accountById(db, id)) === null)
      throw new Refusal('not-found', `There is no account ${id}.`, 'See the list of accounts.');
  const imported = await costs.bills.import(file, isGzip, wanted, clock.now());
  for (const id of wanted.values()) changes.tell('costs', { accountId: id });
  return imported;
}
