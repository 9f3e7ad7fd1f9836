import type { AlarmDefinition } from '$lib/core/alarm';
import { recommendedAlarms } from '$lib/core/alarm/recommended';
import { minute } from '$lib/core/time';
import { healthMetrics } from '../intake/own/health-metrics';

/**
 * The alarms by which a workspace watches Bussola itself from its beginning: those that are recommended for it.
 *
 * @param hasDisk whether its data lie on a disk of this machine
 * @example alarmsOnBussola(true).map(({ name }) => name) // ['Bussola collects late', …]
 */
export function alarmsOnBussola(hasDisk: boolean): AlarmDefinition[] {
  const metrics = healthMetrics
    .filter(({ name }) => hasDisk || name !== 'bussola.disk.free')
    .map(({ name }) => ({ name, service: 'bussola', samplingMs: minute, everyMs: minute }));
  return recommendedAlarms(metrics, 'bussola').map(({ definition }) => definition);
}
