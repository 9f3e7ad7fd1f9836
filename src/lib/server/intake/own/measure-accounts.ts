import { feedOf } from '$lib/core/intake';
import { minute, type Instant } from '$lib/core/time';
import { allAccounts, type Account } from '../../inventory/accounts';
import { pagesProvider } from '../../inventory/self-described';
import { saveDiscovered } from '../../inventory/resources';
import { allCollections, pushedService } from '../ledger/collections';
import type { Intake } from '../ledger/intake';
import { storeSeries } from '../ledger/store-series';
import { openOwnAccount, ownAccount, ownSample, type OwnMeasures } from './own-account';

const service = 'accounts';

type Worker = Pick<Intake, 'db' | 'store' | 'disk' | 'book' | 'providers' | 'changes'>;

/**
 * Measures what comes of each account, as samples of Bussola's own: one that goes dark is watched by an alarm as anything else is. Nothing is measured before an account is connected.
 *
 * @param now one sample a minute is stored, at the start of the minute
 * @param more what else is measured
 */
export async function measureAccounts(
  worker: Worker,
  now: Instant,
  more: OwnMeasures = { resources: [], series: [] }
): Promise<void> {
  const { db, providers, changes } = worker;
  const accounts = (await allAccounts(db)).filter(
    ({ provider }) => provider in providers || provider === pagesProvider
  );
  if (accounts.length === 0 && more.resources.length === 0 && (await ownAccount(db)) === null) return;
  const accountId = await openOwnAccount(db, now);
  await saveDiscovered(db, accountId, [...accounts.map(resourceOfAccount), ...more.resources], now);
  const collections = await allCollections(db);
  const at = (Math.floor(now / minute) * minute) as Instant;
  const series = accounts.flatMap((account) => {
    const feed = feedOf(
      collections
        .filter((one) => one.accountId === account.id && one.service !== pushedService)
        .map(({ newestAt, lastSuccessAt, lastError }) => ({ newestAt, lastSuccessAt, isFailing: lastError !== null })),
      account.createdAt,
      now
    );
    return [
      ownSample(idOfAccount(account.id), 'account.data.age', at, feed.age / 1000),
      ownSample(idOfAccount(account.id), 'account.services.silent', at, feed.silentServices)
    ];
  });
  const { written } = await storeSeries(worker, accountId, service, [...series, ...more.series], now);
  if (written > 0) changes.tell('samples', { accountId });
}

/** Stores what one of several processes measured of itself, where another one measures all else. */
export async function saveOwnMeasures(worker: Worker, now: Instant, { resources, series }: OwnMeasures): Promise<void> {
  if ((await ownAccount(worker.db)) === null) return;
  const accountId = await openOwnAccount(worker.db, now);
  await saveDiscovered(worker.db, accountId, resources, now);
  const { written } = await storeSeries(worker, accountId, service, series, now);
  if (written > 0) worker.changes.tell('samples', { accountId });
}

/** By what an account is known among what Bussola measures itself. */
export const idOfAccount = (id: number): string => `account/${id}`;

/** An account as a resource of Bussola's own. */
export const resourceOfAccount = ({ id, name }: Pick<Account, 'id' | 'name'>) => ({
  providerId: idOfAccount(id),
  name,
  type: 'account',
  service,
  region: '',
  tags: {},
  guest: 'none' as const,
  formerNames: []
});
