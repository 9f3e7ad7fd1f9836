import { error } from '@sveltejs/kit';
import { z } from 'zod';
import { permitFor } from '$server/boards/permit';
import { shownWith } from '$server/boards/shown';
import { overview } from '$server/incidents/overview';
import { readerDates } from '$server/http/reader-dates';
import { chosenNight } from '$server/http/theme';
import { bussola } from '$server/process/running';
import type { PageServerLoad } from './$types';

const wallSchema = z
  .string()
  .regex(/^\d{1,9}(,\d{1,9}){0,23}$/)
  .transform((text) => text.split(',').map(Number));

export const load: PageServerLoad = async ({ url, locals, cookies, depends }) => {
  depends('bussola:board');
  const server = bussola();
  const ids = wallSchema.safeParse(url.searchParams.get('boards') ?? '');
  if (!ids.success)
    error(400, { message: 'No board is named for the wall.', remedy: 'Choose some on the page Boards.' });
  const all = await overview(server);
  const boards = [];
  for (const id of ids.data) {
    const permit = await permitFor(server.db, locals.person, id, 'view');
    if (permit.kind === 'no') continue; // one that is gone or not theirs is left out of the round
    const { metrics, ...things } = await shownWith(server, permit.board);
    boards.push({
      board: permit.board,
      metrics,
      things: { ...things, incidents: all.logbook.incidents, services: all.services }
    });
  }
  if (boards.length === 0)
    error(404, { message: 'None of these boards is there.', remedy: 'Choose some on the page Boards.' });
  return {
    now: all.now,
    version: all.version,
    raised: all.counts.raised,
    newest: all.newest,
    dates: readerDates(locals.person),
    night: chosenNight(cookies),
    boards
  };
};
