import { signalsOfAlarm } from '$lib/core/alarm';
import { picksOf } from '$lib/core/signal';
import { allAlarms } from '$server/alarms/alarms';
import { checkMetrics } from '$server/intake/own/own-metrics';
import { allChecks } from '$server/reachability/checks';
import { bussola } from '$server/process/running';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ depends }) => {
  depends('bussola:checks');
  depends('bussola:overview');
  const { db } = bussola();
  const [checks, alarms] = await Promise.all([allChecks(db), allAlarms(db)]);
  return {
    checks,
    isWatched: alarms.some(
      ({ definition }) =>
        definition.enabled &&
        signalsOfAlarm(definition)
          .flatMap(picksOf)
          .some(({ metric }) => metric === checkMetrics.up)
    )
  };
};
