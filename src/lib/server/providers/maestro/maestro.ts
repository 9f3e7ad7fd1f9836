import { z } from 'zod';
import { day, hour, times, type Clock } from '$lib/core/time';
import { accessTest } from '../port/checks';
import { exchangeJson } from '../port/exchange';
import type { AccessCheck, FoundMetric, FoundResource, Provider, ProviderAccess } from '../port/provider';
import { authorised, clustersOf, scrape } from './call';
import { isWorkload, maestroActs, tryChanging } from './acts';
import { billFiles, maestroBills } from './bills';
import { follow, hear } from './events';
import { metricsOf, resourcesOf } from './found';
import { hearLines, maestroLines } from './lines';
import { fetchPages } from './pages';

/**
 * Maestro: each cluster has an OpenMetrics page to be scraped, keeps its minutes for a while, and reports events in a stream.
 *
 * @example const found = await maestroProvider(clock).discover(access)
 */
export const maestroProvider = (clock: Clock): Provider => ({
  name: 'Maestro',
  guide: {
    rights: [
      { right: 'clusters.list', why: 'to find clusters' },
      { right: 'metrics.scrape', why: 'to read their pages' },
      { right: 'events.follow', why: 'to hear of restarts and lost gateways', optional: true },
      { right: 'lines.follow', why: 'to read the lines of workloads and nodes', optional: true },
      { right: 'bills.fetch', why: 'to fetch the monthly files of what clusters cost', optional: true },
      { right: 'workload-metrics.enable', why: 'to switch workload-level metrics on from here', optional: true },
      { right: 'workloads.change', why: 'to restart workloads and change their copies from here', optional: true }
    ],
    steps: [
      'At Maestro, make a token for Bussola alone.',
      'Give it the rights below and no others.',
      'Enter it here, once, under a name you will know it by.'
    ],
    endpointLabel: 'Address of Maestro’s interface',
    keyLabel: 'Name of the token',
    secretLabel: 'Token'
  },
  reach: times(15, day),
  historyPiece: times(4, hour),
  measuresOnRequest: true,
  requestsPerPull: () => 3,
  pricePerThousandRequests: 0,
  testAccess: (access) => testAccess(clock, access),
  discover: async (access) => {
    const found: FoundResource[] = [];
    for (const cluster of await clustersOf(clock, access))
      found.push(...resourcesOf(cluster, await scrape(clock, access, cluster)));
    return found;
  },
  describeMetrics: async (access) => {
    const metrics = new Map<string, FoundMetric>();
    for (const cluster of await clustersOf(clock, access))
      for (const metric of metricsOf(await scrape(clock, access, cluster))) metrics.set(metric.name, metric);
    return [...metrics.values()];
  },
  fetch: (access, wanted, span) => fetchPages(clock, access, wanted, span),
  events: async (access) =>
    (await clustersOf(clock, access)).map(({ id }) => ({
      name: id,
      follow: (cursor, signal) => follow(access, id, cursor, signal)
    })),
  lines: async (access) => maestroLines(access, await clustersOf(clock, access)),
  bills: (access) => maestroBills(clock, access),
  acts: (access) => maestroActs(clock, access),
  enableGuest: async (access, resource) => {
    await exchangeJson(
      clock,
      access,
      `/clusters/${encodeURIComponent(resource)}/workload-metrics`,
      authorised(access, 'POST'),
      z.unknown()
    );
  }
});

async function testAccess(clock: Clock, access: ProviderAccess): Promise<AccessCheck[]> {
  const list = () => clustersOf(clock, access);
  const { test, isReachable } = await accessTest(new URL(access.endpoint).host, list);
  if (!isReachable) return test.checks;
  const clusters = await test.right('list resources', list, ({ length }) => `May list clusters: ${length} found.`);
  const first = clusters?.[0];
  if (!first) return test.checks;
  const scraped = await test.right(
    'read metrics',
    () => scrape(clock, access, first),
    ({ samples }) => `May read metrics: ${samples.length} lines on the page of ${first.title}.`
  );
  const found = scraped === null ? [] : resourcesOf(first, scraped);
  await test.right(
    'hear of events',
    () => hear(access, first.id),
    () => 'May hear of events.'
  );
  await test.right(
    'read lines',
    () => hearLines(clock, access, first),
    () => 'May read lines.'
  );
  await test.right(
    'read bills',
    () => billFiles(clock, access),
    ({ files }) => `May fetch bills: ${files.length} monthly files.`
  );
  const workload = found.map(({ providerId }) => providerId).find(isWorkload);
  if (workload !== undefined)
    await test.right(
      'act',
      () => tryChanging(clock, access, workload),
      () => 'May restart workloads and change their copies.'
    );
  return test.checks;
}
