import { error } from '@sveltejs/kit';
import { boardOf } from '$lib/core/board';
import { boardOfLink } from '$server/boards/links';
import { noSuchLink } from '$server/boards/missing';
import { sharedThings } from '$server/boards/shared-things';
import { shownWith } from '$server/boards/shown';
import { overview } from '$server/overview';
import { bussola } from '$server/running';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ params, cookies, depends }) => {
  depends('bussola:board');
  const server = bussola();
  const link = await boardOfLink(server.db, params.token, server.clock.now());
  if (link === null) error(404, noSuchLink);
  const { choices, expiresAt } = link;
  // Who made it, and with whom else it is shared, is nobody's business.
  const board = boardOf(link.board);
  const all = await overview(server);
  const { metrics, ...things } = await shownWith(server, board, all.openOn);
  return {
    token: params.token,
    night: cookies.get('theme') === 'night',
    now: all.now,
    version: all.version,
    board,
    choices,
    expiresAt,
    metrics,
    things: sharedThings(board, {
      ...things,
      incidents: all.logbook.incidents,
      services: all.services
    })
  };
};
