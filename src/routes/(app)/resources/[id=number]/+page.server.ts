import { error } from '@sveltejs/kit';
import { resourceBoard } from '$lib/core/board/starters';
import { before, day, times } from '$lib/core/time';
import { statesOfResource } from '$server/alarms/alarms';
import { shownWith } from '$server/boards/shown';
import { eventsIn } from '$server/intake/events/events';
import { allMetrics } from '$server/inventory/metrics';
import { resourceById } from '$server/inventory/resources';
import { metricsOfResource } from '$server/inventory/series';
import { allChannels } from '$server/notify/channels';
import { actRight } from '$server/people/act-access';
import { actableBy } from '$server/responses/provider-acts';
import { listRuns } from '$server/responses/runs';
import { bussola } from '$server/process/running';
import type { PageServerLoad } from './$types';

/** What was done with it that is listed. */
const mostRuns = 20;

export const load: PageServerLoad = async ({ params, depends, locals }) => {
  depends('bussola:board');
  const server = bussola();
  const { db, clock } = server;
  const resource = await resourceById(db, Number(params.id));
  if (resource === null)
    error(404, { message: 'There is no such resource.', remedy: 'It may have been forgotten. Look for it by name.' });
  const now = clock.now();
  const [metrics, names, states, events, accounts, runs, channels] = await Promise.all([
    allMetrics(db),
    metricsOfResource(db, resource.accountId, resource.id),
    statesOfResource(db, resource),
    eventsIn(db, before(now, times(14, day)), now, { accountId: resource.accountId, resourceId: resource.id }),
    actRight.of(db, locals.person),
    listRuns(db, { resourceId: resource.id }, mostRuns),
    allChannels(db)
  ]);
  const own = metrics.filter(({ name }) => names.includes(name));
  const board = resourceBoard(resource, own);
  const acts = {
    actsOn: actableBy(server, accounts, resource),
    runs,
    channels: Object.fromEntries(channels.map(({ id, name }) => [id, name]))
  };
  return { resource, ...acts, board, states, events: events.slice(0, 50), ...(await shownWith(server, board)) };
};
