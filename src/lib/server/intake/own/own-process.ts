import { minute, type Instant } from '$lib/core/time';
import type { FetchedSeries, FoundResource } from '../../providers/port/provider';
import { healthMetrics } from './health-metrics';
import { ownSample, type OwnMeasures } from './own-account';

/**
 * A process of Bussola as a resource of its own account, and what was read of it as samples of the start of the minute.
 *
 * @param instance what it is called among several
 * @param read values by the name of their metric
 * @example ownProcess('bussola', await readHealth(observed, now), now).resources[0].providerId // 'process/bussola'
 */
export function ownProcess(instance: string, read: ReadonlyMap<string, number>, now: Instant): OwnMeasures {
  const at = (Math.floor(now / minute) * minute) as Instant;
  const resource: FoundResource = {
    ...{ providerId: `process/${instance}`, name: instance, type: 'bussola', service: 'bussola' },
    ...{ region: '', tags: {}, guest: 'none', formerNames: [] }
  };
  const series = healthMetrics.flatMap(({ name }): FetchedSeries[] => {
    const value = read.get(name);
    return value === undefined ? [] : [ownSample(resource.providerId, name, at, value)];
  });
  return { resources: [resource], series };
}
