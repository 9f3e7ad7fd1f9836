import { redirect } from '@sveltejs/kit';
import { governs } from '$lib/core/board';
import { favouritesOf } from '$server/boards/favourites';
import { removeBoard } from '$server/boards/boards';
import { noteOpened } from '$server/boards/opened';
import { permitFor } from '$server/boards/permit';
import { shownWith } from '$server/boards/shown';
import { refusePage } from '$server/http/pages';
import { resting } from '$server/removals/resting';
import { bussola } from '$server/process/running';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ params, depends, locals }) => {
  // Also what the index changes: favourites.
  depends('bussola:board', 'bussola:overview');
  const server = bussola();
  const permit = await permitFor(server.db, locals.person, Number(params.id), 'view');
  if (permit.kind === 'no') refusePage(permit.refusal);
  const { board, may } = permit;
  await noteOpened(server, board.id);
  const favourites = await favouritesOf(server.db, locals.person?.id ?? 0);
  return {
    board,
    mayEdit: may === 'edit',
    mayGovern: locals.person !== null && governs(board.sharing, locals.person),
    isFavourite: favourites.includes(board.id),
    ...(await shownWith(server, board))
  };
};

export const actions = {
  remove: async ({ params, locals }) => {
    const { db } = bussola();
    const permit = await permitFor(db, locals.person, Number(params.id), 'govern');
    if (permit.kind === 'no') refusePage(permit.refusal);
    const { id } = permit.board;
    const by = locals.person?.displayName ?? '';
    await resting(bussola(), { kind: 'boards', id, by }, (inner) => removeBoard(inner.db, id));
    redirect(303, '/boards');
  }
} satisfies Actions;
