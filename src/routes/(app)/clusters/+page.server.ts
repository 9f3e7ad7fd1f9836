import { sumOf } from '$lib/core/clusters';
import { resolveRange, shownRangeFrom } from '$lib/core/time';
import { clusterAt, clustersIn } from '$server/clusters/cluster-page';
import { allResources } from '$server/inventory/resources';
import { bussola } from '$server/process/running';
import type { PageServerLoad } from './$types';

/** Clusters whose numbers are read for one page. */
const mostClusters = 50;

export const load: PageServerLoad = async ({ depends, url }) => {
  depends('bussola:board');
  const server = bussola();
  const at = resolveRange(shownRangeFrom(url.searchParams), server.clock.now()).to;
  const resources = await allResources(server.db);
  const found = clustersIn(resources);
  const clusters = [];
  // One after the other: all at once would keep boards waiting.
  for (const { id, name, account, region, tags } of found.slice(0, mostClusters)) {
    const { nodes, workloads, containers } = await clusterAt(
      server,
      { account, cluster: tags['cluster'] ?? name },
      at,
      resources
    );
    clusters.push({
      ...{ id, name, account, region, nodes: nodes.length, workloads: workloads.length },
      containers: containers.length,
      memory: sumOf(nodes.map(({ memory }) => memory)),
      processor: sumOf(nodes.map(({ processor }) => processor)),
      restarts: containers.reduce((sum, { restarts }) => sum + restarts, 0)
    });
  }
  return { clusters, left: Math.max(0, found.length - mostClusters) };
};
