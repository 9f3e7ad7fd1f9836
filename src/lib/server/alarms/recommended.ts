import { recommendedAlarms, type RecommendedAlarm } from '$lib/core/alarm';
import { allPlans, slowestEvery } from '../intake/plan/plans';
import { metricsWithUse } from '../inventory/metrics';
import type { Queryable } from '../db/pool';

/** The recommended alarms for what is collected. */
export async function recommendations(db: Queryable): Promise<RecommendedAlarm[]> {
  const [metrics, plans] = await Promise.all([metricsWithUse(db), allPlans(db)]);
  return recommendedAlarms(
    metrics
      .filter(({ isCollected }) => isCollected)
      .map(({ name, service, samplingMs }) => ({ name, service, samplingMs, everyMs: slowestEvery(plans, service) }))
  );
}
