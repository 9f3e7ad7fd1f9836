import { noteOpened } from '$server/boards/opened';
import { boardOf } from '$lib/core/board';
import { watchedStates } from '$server/alarms/alarms';
import { countMiss, countUse } from '$server/boards/link-limits';
import { boardOfLink } from '$server/boards/links';
import { noSuchLink } from '$server/boards/not-found';
import { sharedThings } from '$server/boards/shared-things';
import { shownWith } from '$server/boards/shown';
import { allGroups } from '$server/query/groups/groups';
import { allResources } from '$server/inventory/resources';
import { overview } from '$server/incidents/overview';
import { asErrorPage, refusePage } from '$server/http/pages';
import { chosenNight } from '$server/http/theme';
import { bussola } from '$server/process/running';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ params, cookies, depends, locals }) => {
  depends('bussola:board');
  const server = bussola();
  const link = await boardOfLink(server.db, params.token, server.clock.now());
  if (link === null) {
    await countMiss(locals.address).catch(asErrorPage);
    refusePage(noSuchLink());
  }
  await countUse(link.id).catch(asErrorPage);
  await noteOpened(server, link.board.id);
  const { choices, expiresAt } = link;
  // Who made it, with whom else it is shared, and what is usually picked is nobody's business.
  const kept = boardOf(link.board);
  const board = { ...kept, pickers: kept.pickers.map((one) => ({ ...one, usual: [...(choices[one.name] ?? [])] })) };
  const all = await overview(server);
  const [{ metrics, alarms, reporting, seen }, states, resources, groups] = await Promise.all([
    shownWith(server, board),
    watchedStates(server.db),
    allResources(server.db),
    allGroups(server.db)
  ]);
  const { incidents } = all.logbook;
  return {
    token: params.token,
    night: chosenNight(cookies),
    now: all.now,
    version: all.version,
    board,
    choices,
    expiresAt,
    metrics,
    things: sharedThings(board, choices, {
      now: all.now,
      alarms,
      states,
      incidents,
      resources,
      groups,
      reporting,
      seen
    })
  };
};
