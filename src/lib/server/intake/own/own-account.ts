// accounts
import { pointsOfLength } from '$lib/core/series';
import type { Instant } from '$lib/core/time';
import type { Database, Queryable } from '../../db/pool';
import { insertAccount, ownProvider } from '../../inventory/accounts';
import { saveMetrics } from '../../inventory/metrics';
import type { FetchedSeries, FoundResource } from '../../providers/port/provider';
import { ownMetrics } from './own-metrics';

/** What else Bussola measures of itself. */
export interface OwnMeasures {
  readonly resources: readonly FoundResource[];
  readonly series: readonly FetchedSeries[];
}

/** Databases whose metrics of Bussola's own were described in this process: a newer Bussola has more of them. */
const describedIn = new WeakSet<object>();

/** The account that holds what Bussola measures of itself. @returns null while there is none */
export async function ownAccount(db: Queryable): Promise<number | null> {
  const [own] = await db.rows<{ id: number }>('select id from accounts where provider = $1', [ownProvider]);
  return own?.id ?? null;
}

/** The account that holds what Bussola measures of itself, made when there is none yet, with its metrics described. @returns its id */
export async function openOwnAccount(db: Database, now: Instant): Promise<number> {
  const id = (await ownAccount(db)) ?? (await db.transaction((within) => beginMeasuring(within, now)));
  if (!describedIn.has(db)) {
    await saveMetrics(db, ownProvider, ownMetrics);
    describedIn.add(db);
  }
  return id;
}

/** Makes the account, under a name that is free; two that begin at once make one. */
async function beginMeasuring(within: Queryable, now: Instant): Promise<number> {
  await within.rows('lock table accounts in share row exclusive mode');
  const made = await ownAccount(within);
  if (made !== null) return made;
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

/** One sample of a resource of the own account. @example ownSample('check/3', 'check.up', at, 1) */
export function ownSample(
  resource: string,
  metric: string,
  at: Instant,
  value: number,
  labels: FetchedSeries['labels'] = {}
): FetchedSeries {
  const points = pointsOfLength(1);
  points.at[0] = at;
  points.sum[0] = points.min[0] = points.max[0] = value;
  points.count[0] = 1;
  return { resource, metric, labels, points };
}
