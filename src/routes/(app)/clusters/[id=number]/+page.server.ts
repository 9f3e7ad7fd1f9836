import { error } from '@sveltejs/kit';
import { clusterBoard } from '$lib/core/board/starters';
import { resolveRange, shownRangeFrom } from '$lib/core/time';
import { shownWith } from '$server/boards/shown';
import { clusterAt, partOfCluster } from '$server/clusters/cluster-page';
import { restartsOf } from '$server/clusters/restarts';
import { metricsWithUse } from '$server/inventory/metrics';
import { bussola } from '$server/process/running';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ params, depends, url }) => {
  depends('bussola:board');
  const server = bussola();
  const found = await partOfCluster(server.db, Number(params.id));
  if (found === null)
    error(404, { message: 'There is no such part of a cluster.', remedy: 'See the list of clusters.' });
  const { resource, part } = found;
  const at = resolveRange(shownRangeFrom(url.searchParams), server.clock.now()).to;
  const board = clusterBoard(found, part, await metricsWithUse(server.db));
  const view = await clusterAt(server, found, at);
  const onNode = part.kind === 'node' ? view.containers.filter(({ node }) => node === part.node) : [];
  const restarts = await restartsOf(
    server.db,
    found,
    {
      workload: part.kind === 'workload' ? part.workload : null,
      copies: part.kind === 'node' ? onNode.map(({ copy }) => copy) : null
    },
    at
  );
  return {
    ...{ resource, part, view, restarts, board, cluster: found.cluster },
    ...(await shownWith(server, board))
  };
};
