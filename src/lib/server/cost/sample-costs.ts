import { isSelfDescribed } from '../inventory/self-described';
import { resourceCost, startOfDay, type DayNumber } from '$lib/core/cost';
import { pointsOfLength } from '$lib/core/series';
import type { Intake } from '../intake/ledger/intake';
import { storeSeries } from '../intake/ledger/store-series';
import { idOfAccount } from '../intake/own/measure-accounts';
import { ownAccount } from '../intake/own/own-account';
import { accountById, ownProvider } from '../inventory/accounts';
import { saveMetrics } from '../inventory/metrics';
import { providerIdsOf } from '../inventory/resources';
import type { FetchedSeries } from '../providers/port/provider';
import type { DaySum } from './cost-book';
import { accountsToSample, noteSampled, unsampledDays } from './cost-days';
import { accountCost, metricsOfAccountCost, metricsOfResourceCost } from './cost-metrics';
import { allRates, costSettings } from './cost-settings';
import type { CostClient } from './open-costs';

type Worker = Pick<Intake, 'db' | 'store' | 'disk' | 'book' | 'changes' | 'clock' | 'providers'> & {
  readonly costs: CostClient;
};

/** Days in one batch. */
const daysAtOnce = 31;

/** Stores what every account cost as samples, of the days whose bill is another than the one they were made of; one account after the other. */
export async function sampleAllCosts(worker: Worker): Promise<void> {
  for (const accountId of await accountsToSample(worker.db)) await sampleCosts(worker, accountId);
}

/** Stores what an account cost as samples: by resource in its own account, and by service and region in Bussola's own. Killed in between, the next call continues. */
async function sampleCosts(worker: Worker, accountId: number): Promise<void> {
  const { db, clock, costs, changes, providers } = worker;
  const [account, own] = await Promise.all([accountById(db, accountId), ownAccount(db)]);
  if (account === null || own === null) return;
  // Samples are of resources that are known: nothing is sampled before those of the account were listed.
  if (account.discoveredAt === null && account.provider in providers) return;
  // Made by the first measurement of an account, a minute after it was connected at most.
  if (!(await providerIdsOf(db, own)).has(idOfAccount(accountId))) return;
  const [{ currency }, rates] = await Promise.all([costSettings(db), allRates(db)]);
  await saveMetrics(db, ownProvider, metricsOfAccountCost(currency));
  // What others send is described for each account apart.
  const describedFor = isSelfDescribed(account.provider) ? accountId : null;
  await saveMetrics(db, account.provider, metricsOfResourceCost(currency), describedFor);
  const known = await providerIdsOf(db, accountId);
  for (;;) {
    const days = await unsampledDays(db, accountId, daysAtOnce);
    if (days.length === 0) break;
    // Asked anew for each batch: what is later than this would be dropped as from the future.
    const now = clock.now();
    const numbers = days.map(({ day }) => day);
    const sums = await costs.book((book) => book.sums(accountId, numbers, { currency, rates }));
    const ofResources = sums.filter(({ resource }) => resource !== null && known.has(resource));
    await storeSeries(worker, accountId, 'cost', seriesOf(ofResources, asResource), now);
    await storeSeries(worker, own, 'accounts', seriesOf(sums, asService(idOfAccount(accountId))), now);
    await noteSampled(db, accountId, days);
  }
  for (const one of [accountId, own]) changes.tell('samples', { accountId: one });
}

type Identity = Pick<FetchedSeries, 'resource' | 'metric' | 'labels'>;

const asResource = ({ resource }: DaySum): Identity => ({ resource: resource ?? '', metric: resourceCost, labels: {} });
const asService =
  (ofAccount: string) =>
  ({ service, region }: DaySum): Identity => ({
    ...{ resource: ofAccount, metric: accountCost },
    // Names of their own: every series has the service and the region of its resource as well.
    labels: { 'cost.service': service, ...(region === '' ? {} : { 'cost.region': region }) }
  });

/** Sums as series of one sample a day, in the currency; what has one identity is added up. */
function seriesOf(sums: readonly DaySum[], identityOf: (sum: DaySum) => Identity): FetchedSeries[] {
  const series = new Map<string, { readonly identity: Identity; readonly days: Map<DayNumber, number> }>();
  for (const sum of sums) {
    const identity = identityOf(sum);
    const key = JSON.stringify(identity);
    const known = series.get(key) ?? { identity, days: new Map<DayNumber, number>() };
    series.set(key, known);
    known.days.set(sum.day, (known.days.get(sum.day) ?? 0) + sum.amount);
  }
  return [...series.values()].map(({ identity, days }) => {
    const sorted = [...days].sort(([a], [b]) => a - b);
    const points = pointsOfLength(sorted.length);
    for (const [index, [day, amount]] of sorted.entries()) {
      points.at[index] = startOfDay(day);
      points.sum[index] = points.min[index] = points.max[index] = amount / 1_000_000;
      points.count[index] = 1;
    }
    return { ...identity, points };
  });
}
