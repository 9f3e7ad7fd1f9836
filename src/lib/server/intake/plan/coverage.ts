// chunks (sizes only)
import {
  collectedMetrics,
  collects,
  estimate,
  planEvery,
  usualPlan,
  type CollectionPlan,
  type Estimate
} from '$lib/core/intake';
import { serviceOrder } from '$lib/core/services';
import { before, day, duration, type Duration } from '$lib/core/time';
import type { Queryable } from '../../db/pool';
import type { Account } from '../../inventory/accounts';
import { allCollections, arrivedByCell, arrivedSince, type Collection } from '../ledger/collections';
import { providerOf, type Intake } from '../ledger/intake';
import { allPlans, priceByProvider } from './plans';
import { metricsByProvider, type Metric } from '../../inventory/metrics';
import { resourcesOfAccount, type Resource } from '../../inventory/resources';
import { seriesCounts } from '../../inventory/series';

/** One resource and whether it is collected. */
export interface CoveredResource extends Resource {
  readonly state: 'collected' | 'not collected' | 'cannot be';
  /** Why it is so, in a few words. */
  readonly why: string;
  readonly metrics: number;
  readonly series: number;
}

/** One service of one account. */
export interface CoveredService {
  readonly service: string;
  readonly plan: CollectionPlan;
  readonly changedBy: string | null;
  readonly collection: Collection | null;
  readonly found: number;
  readonly collected: number;
  readonly guestOff: number;
  /** The right that is missing, in words, when it yields nothing for that reason. */
  readonly refused: string | null;
  readonly metrics: readonly Metric[];
  /** The longest delay that is declared of a metric collected. */
  readonly declaredDelay: Duration;
  /** Points in each hour of the last day, oldest first. */
  readonly hours: readonly number[];
  readonly estimate: Estimate;
  readonly price: number;
  /** What really happened in the last day: points, requests; null before a whole day has passed. */
  readonly actual: { readonly points: number; readonly requests: number } | null;
}

/**
 * What of an account is collected, service by service.
 *
 * @param tried a plan that is looked at for a service instead of the one it has
 */
export async function coverageOf(
  { db, clock, providers }: Pick<Intake, 'db' | 'clock' | 'providers'>,
  account: Account,
  tried: { readonly service: string; readonly plan: CollectionPlan } | null = null
): Promise<{ services: CoveredService[]; resources: CoveredResource[] }> {
  const now = clock.now();
  const [resources, metrics, plans, collections, counts, hours, arrived, prices, bytesPerPoint] = await Promise.all([
    resourcesOfAccount(db, account.id),
    metricsByProvider(db),
    allPlans(db),
    allCollections(db),
    seriesCounts(db),
    arrivedByCell(db, before(now, day), 3_600_000),
    arrivedSince(db, before(now, day)),
    priceByProvider(db),
    bytesOfPoint(db)
  ]);
  const provider = account.provider in providers ? providerOf(providers, account) : null;
  const ofProvider = metrics.filter((metric) => metric.provider === account.provider);
  const price = prices.get(account.provider) ?? provider?.pricePerThousandRequests ?? 0;
  const seriesOf = (resourceId: number, metric?: string) =>
    counts
      .filter(
        (one) =>
          one.accountId === account.id &&
          one.resourceId === resourceId &&
          (metric === undefined || one.metric === metric)
      )
      .reduce((sum, { series }) => sum + series, 0);
  const names = [...new Set(resources.map(({ service }) => service))].sort((a, b) => serviceOrder(a) - serviceOrder(b));
  const covered: CoveredResource[] = [];
  const services = names.map((service): CoveredService => {
    const kept = plans.find((one) => one.accountId === account.id && one.service === service);
    const plan = tried?.service === service ? tried.plan : (kept?.plan ?? usualPlan);
    const collection = collections.find((one) => one.accountId === account.id && one.service === service) ?? null;
    const refused = collection?.lastError?.code === 'permission' ? collection.lastError.message : null;
    const ofService = ofProvider.filter((metric) => metric.service === service);
    const there = resources.filter((resource) => resource.service === service);
    const rows = there.map((resource) => coveredResource(resource, plan, refused, ofService, seriesOf(resource.id)));
    covered.push(...rows);
    const live = rows.filter(({ endedAt }) => endedAt === null);
    const counted = live.flatMap((resource) =>
      wantedMetrics(resource, plan, ofService).map((metric) => ({
        samplingMs: provider?.measuresOnRequest ? planEvery(plan) : metric.samplingMs,
        series: Math.max(1, seriesOf(resource.id, metric.name))
      }))
    );
    const collected = live.filter(({ metrics: count }) => count > 0);
    const requests = provider?.requestsPerPull(collected.length, counted.length) ?? 0;
    const cells = hours.filter((one) => one.accountId === account.id && one.service === service);
    const sum = arrived.find((one) => one.accountId === account.id && one.service === service);
    const first = Math.floor((now - day) / 3_600_000) + 1;
    return {
      service,
      plan,
      changedBy: kept?.changedBy ?? null,
      collection,
      found: live.length,
      collected: live.filter(({ state }) => state === 'collected').length,
      guestOff: live.filter(({ guest }) => guest === 'off').length,
      refused,
      metrics: ofService,
      declaredDelay: duration(Math.max(0, ...ofService.map(({ delayMs }) => delayMs))),
      hours: Array.from({ length: 24 }, (_, i) => cells.find(({ at }) => at === (first + i) * 3_600_000)?.points ?? 0),
      estimate: estimate(plan, counted, requests, price, bytesPerPoint),
      price,
      actual: now - account.createdAt < day || !sum ? null : { points: sum.points, requests: sum.requests }
    };
  });
  return { services, resources: covered };
}

function wantedMetrics(resource: Resource, plan: CollectionPlan, metrics: readonly Metric[]): Metric[] {
  if (resource.endedAt !== null) return [];
  return collectedMetrics(
    plan,
    resource,
    metrics.filter(({ resourceType }) => resourceType === resource.type)
  );
}

function coveredResource(
  resource: Resource,
  plan: CollectionPlan,
  refused: string | null,
  metrics: readonly Metric[],
  series: number
): CoveredResource {
  const count = wantedMetrics(resource, plan, metrics).length;
  const row = (state: CoveredResource['state'], why: string) => ({ ...resource, state, why, metrics: count, series });
  if (resource.endedAt !== null) return row('not collected', 'it has ended');
  if (refused !== null && collects(plan, resource)) return row('cannot be', refused);
  if (count > 0) return row('collected', resource.chosen === true ? 'switched on' : 'by the plan');
  if (resource.chosen === false) return row('not collected', 'switched off');
  if (plan.collect === 'nothing') return row('not collected', 'the service is not collected');
  if (collects(plan, resource)) return row('not collected', 'the plan selects none of its metrics');
  return row('not collected', plan.collect === 'chosen' ? 'not chosen' : 'left out by the plan');
}

/** Bytes that a sealed point takes, measured over all of them; a guess before anything is sealed. */
export async function bytesOfPoint(db: Queryable): Promise<number> {
  const rows = await db.rows<{ bytes: number; points: number }>(
    `select coalesce(sum(length(bytes)), 0)::bigint as bytes, coalesce(sum(points) filter (where resolution_ms = 0), 0)::bigint as points
     from (select bytes, points, resolution_ms from chunks order by changed_at desc limit 2000) as newest`
  );
  const { bytes = 0, points = 0 } = rows[0] ?? {};
  return points > 0 ? bytes / points : 3;
}
