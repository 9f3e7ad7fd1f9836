import { error } from '@sveltejs/kit';
import { clusterBoard } from '$lib/core/board/starters';
import { resolveRange, shownRangeFrom } from '$lib/core/time';
import { shownWith } from '$server/boards/shown';
import { clusterAt, partOfCluster } from '$server/clusters/cluster-page';
import { restartsOf } from '$server/clusters/restarts';
import { metricsWithUse } from '$server/inventory/metrics';
import { bussola } from '$server/process/running';
import type { PageServerLoad } from './$types';

/** Characters of a container's name. */
const longestName = 300;

export const load: PageServerLoad = async ({ params, depends, url }) => {
  depends('bussola:board');
  const server = bussola();
  const found = await partOfCluster(server.db, Number(params.id));
  const copy = params.copy.replaceAll('\0', '');
  if (found?.part.kind !== 'workload' || copy === '' || copy.length > longestName)
    error(404, { message: 'There is no such container.', remedy: 'See the list of clusters.' });
  const { part, resource } = found;
  const at = resolveRange(shownRangeFrom(url.searchParams), server.clock.now()).to;
  const board = clusterBoard(found, { kind: 'container', copy }, await metricsWithUse(server.db));
  const [view, restarts] = await Promise.all([
    clusterAt(server, found, at),
    restartsOf(server.db, found, { workload: part.workload, copies: [copy] }, at)
  ]);
  const container = view.containers.find((one) => one.copy === copy && one.workload === part.workload) ?? null;
  if (container === null && restarts.length === 0)
    error(404, {
      message: `Nothing was heard of a container ${copy} of ${resource.name} at the end of what is shown.`,
      remedy: 'It may have ended. Choose another range, or see the containers of its workload.'
    });
  return {
    ...{ resource, copy, container, restarts, board, cluster: found.cluster, clusterId: view.id },
    nodeId: view.nodes.find(({ name }) => name === container?.node)?.id ?? null,
    ...(await shownWith(server, board))
  };
};
