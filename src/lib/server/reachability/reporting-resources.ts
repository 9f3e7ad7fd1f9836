import { dueBy, type Reports } from '$lib/core/board';
import { planEvery, usualPlan } from '$lib/core/intake';
import type { Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';
import { allPlans } from '../intake/plan/plans';
import { lateEvery } from '../intake/pull/pull';
import { promptWithin } from '../intake/pull/requested';
import type { Resource } from '../inventory/resources';
import { seriesOfResources } from '../inventory/series';
import type { StoreClient } from '../store/open-store';

/** A resource, and how its samples arrive. */
export interface Reporting extends Pick<Resource, 'id' | 'name' | 'account' | 'service'> {
  /** Start of its newest sample; null when there was none. */
  readonly newest: Instant | null;
  /** When the next should have been there; null when there was none. */
  readonly dueBy: Instant | null;
}

/**
 * Resources with the start of their newest sample and when the next should have been there.
 *
 * @param known the series of resources, where they were read before
 */
export async function reportingResources(
  { db, store }: { readonly db: Queryable; readonly store: Pick<StoreClient, 'samples'> },
  resources: readonly Resource[],
  known: ReturnType<typeof seriesOfResources> = seriesOfResources(db)
): Promise<Reporting[]> {
  const [series, plans] = await Promise.all([known, allPlans(db)]);
  const newest = await store.samples.newest(series.map(({ id }) => id));
  const everyOf = new Map(
    plans.map(({ accountId, service, plan }) => [`${accountId} ${service}`, planEvery(plan)] as const)
  );
  const usual = planEvery(usualPlan);
  const accounts = new Map(
    resources.map(({ id, accountId, service }) => [id, everyOf.get(`${accountId} ${service}`) ?? usual])
  );
  const reports = new Map<number, Reports[]>();
  for (const [index, { resourceId, samplingMs, delayMs }] of series.entries()) {
    const every = accounts.get(resourceId) ?? usual;
    const one: Reports = {
      newest: (newest[index] ?? null) as Instant | null,
      samplingMs,
      delayMs,
      everyMs: delayMs > promptWithin ? Math.max(every, lateEvery) : every
    };
    const others = reports.get(resourceId);
    if (others) others.push(one);
    else reports.set(resourceId, [one]);
  }
  return resources.map(({ id, name, account, service }) => {
    const own = reports.get(id) ?? [];
    const latest = own.reduce((most, { newest: at }) => Math.max(most, at ?? 0), 0);
    return { id, name, account, service, newest: latest === 0 ? null : (latest as Instant), dueBy: dueBy(own) };
  });
}
