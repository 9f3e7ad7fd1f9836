import { error, redirect } from '@sveltejs/kit';
import { boardById, removeBoard } from '$server/boards/boards';
import { noSuchBoard } from '$server/boards/missing';
import { shownWith } from '$server/boards/shown';
import { bussola } from '$server/running';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ params, depends, parent }) => {
  depends('bussola:board');
  const server = bussola();
  const board = await boardById(server.db, Number(params.id));
  if (board === null) error(404, noSuchBoard);
  const { overview } = await parent();
  return { board, ...(await shownWith(server, board, overview.open)) };
};

export const actions = {
  remove: async ({ params }) => {
    await removeBoard(bussola().db, Number(params.id));
    redirect(303, '/boards');
  }
} satisfies Actions;
