import { collectedMetrics, type CollectionPlan } from '$lib/core/intake';
import { minute, times } from '$lib/core/time';
import type { Queryable } from '../../db/pool';
import type { Account } from '../../inventory/accounts';
import { planOf } from '../plan/plans';
import type { WantedResource } from '../../providers/port/provider';
import { metricsOfService, type Metric } from '../../inventory/metrics';
import { resourcesOfAccount, type Resource } from '../../inventory/resources';

/** Metrics that come later than this are requested apart, so that the others need not be asked again and again for hours back. */
export const promptWithin = times(10, minute);

/** What is to be fetched of one service: metrics that come promptly, and those that come hours late. */
export interface Wanted {
  readonly plan: CollectionPlan;
  readonly prompt: RequestedPart;
  readonly late: RequestedPart;
}

export interface RequestedPart {
  readonly resources: readonly WantedResource[];
  /** How long after its moment a sample may come, its interval included. */
  readonly behindMs: number;
}

/** What the plan of a service of an account wants, of the resources that are there. */
export async function wantedOf(db: Queryable, account: Account, service: string): Promise<Wanted> {
  const plan = await planOf(db, account.id, service);
  const metrics = await metricsOfService(db, account.provider, service);
  const resources = (await resourcesOfAccount(db, account.id)).filter(
    (one) => one.service === service && one.endedAt === null
  );
  const part = (picked: readonly Metric[]): RequestedPart => ({
    resources: wantedResources(plan, resources, picked),
    behindMs: Math.max(0, ...picked.map(({ delayMs, samplingMs }) => delayMs + samplingMs))
  });
  return {
    plan,
    prompt: part(metrics.filter(({ delayMs }) => delayMs <= promptWithin)),
    late: part(metrics.filter(({ delayMs }) => delayMs > promptWithin))
  };
}

function wantedResources(
  plan: CollectionPlan,
  resources: readonly Resource[],
  metrics: readonly Metric[]
): WantedResource[] {
  return resources.flatMap((resource) => {
    const names = collectedMetrics(
      plan,
      resource,
      metrics.filter(({ resourceType }) => resourceType === resource.type)
    ).map(({ name }) => name);
    return names.length > 0 ? [{ providerId: resource.providerId, metrics: names }] : [];
  });
}
