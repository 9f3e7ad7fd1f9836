import { feedOf } from '$lib/core/intake';
import { pointsOfLength } from '$lib/core/series';
import { minute, type Instant } from '$lib/core/time';
import type { Queryable } from '../../db/pool';
import { allAccounts, insertAccount, ownProvider, type Account } from '../../inventory/accounts';
import { saveMetrics } from '../../inventory/metrics';
import { saveDiscovered } from '../../inventory/resources';
import type { FetchedSeries, FoundMetric, FoundResource } from '../../providers/port/provider';
import { allCollections, pushedService } from '../ledger/collections';
import type { Intake } from '../ledger/intake';
import { storeSeries } from '../ledger/store-series';

const service = 'accounts';
const described = {
  kind: 'gauge',
  shape: 'single',
  resourceType: 'account',
  service,
  recommended: true,
  level: 'host',
  samplingMs: minute,
  delayMs: 0
} as const;

/** What Bussola measures of each account that it collects from. */
const metrics: readonly FoundMetric[] = [
  {
    name: 'account.data.age',
    title: 'Age of the newest data',
    description: 'How old the newest sample is that came of an account, of any service.',
    unit: 's',
    ...described
  },
  {
    name: 'account.services.silent',
    title: 'Services that send nothing',
    description: 'Services of an account whose requests fail, while those of others succeed.',
    unit: '{service}',
    ...described
  },
  {
    name: 'events.matched',
    title: 'Events that match a rule',
    description: 'Events of a minute, by when they arrived, that raise what an event rule looks for.',
    unit: '{event}',
    ...described,
    resourceType: 'event-rule'
  }
];

/** What else Bussola measures of itself. */
export interface OwnMeasures {
  readonly resources: readonly FoundResource[];
  readonly series: readonly FetchedSeries[];
}

/** Databases whose metrics of Bussola's own were described in this process: a newer Bussola has more of them. */
const describedIn = new WeakSet<object>();

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
  const accounts = (await allAccounts(db)).filter(({ provider }) => provider in providers);
  const own = await ownAccount(db);
  if (accounts.length === 0 && own === null && more.resources.length === 0) return;
  const accountId = own ?? (await db.transaction((within) => beginMeasuring(within, now)));
  if (!describedIn.has(db)) {
    await saveMetrics(db, ownProvider, metrics);
    describedIn.add(db);
  }
  await saveDiscovered(db, accountId, [...accounts.map(resourceOf), ...more.resources], now);
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
      sample(account, 'account.data.age', at, feed.age / 1000),
      sample(account, 'account.services.silent', at, feed.silentServices)
    ];
  });
  const { written } = await storeSeries(worker, accountId, service, [...series, ...more.series], now);
  if (written > 0) changes.tell('samples', { accountId });
}

async function ownAccount(db: Queryable): Promise<number | null> {
  const [own] = await db.rows<{ id: number }>('select id from accounts where provider = $1', [ownProvider]);
  return own?.id ?? null;
}

/** Makes the account that holds what Bussola measures of itself, under a name that is free. */
async function beginMeasuring(within: Queryable, now: Instant): Promise<number> {
  const taken = new Set((await within.rows<{ name: string }>('select name from accounts')).map(({ name }) => name));
  let name = ownProvider;
  for (let count = 2; taken.has(name); count++) name = `${ownProvider}-${count}`;
  const { id } = await insertAccount(within, {
    name,
    provider: ownProvider,
    endpoint: '',
    keyId: '',
    sealedSecret: Buffer.alloc(0),
    createdAt: now,
    createdBy: 'Bussola',
    historyFrom: now
  });
  return id;
}

const resourceId = (id: number): string => `account/${id}`;

const resourceOf = ({ id, name }: Account) => ({
  providerId: resourceId(id),
  name,
  type: 'account',
  service,
  region: '',
  tags: {},
  guest: 'none' as const,
  formerNames: []
});

function sample({ id }: Account, metric: string, at: Instant, value: number): FetchedSeries {
  const points = pointsOfLength(1);
  points.at[0] = at;
  points.sum[0] = points.min[0] = points.max[0] = value;
  points.count[0] = 1;
  return { resource: resourceId(id), metric, labels: {}, points };
}
