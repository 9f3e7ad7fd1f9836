import { json } from '@sveltejs/kit';
import { asked } from '$server/asked';
import { boardById, removeBoard } from '$server/boards/boards';
import { changedBoardSchema, keepBoard } from '$server/boards/keep';
import { noSuchBoard } from '$server/boards/missing';
import { bussola } from '$server/running';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = async ({ params }) => {
  const board = await boardById(bussola().db, Number(params.id));
  return board === null ? json(noSuchBoard, { status: 404 }) : json(board);
};

/** Changes the board; 409 with the board as it is when somebody changed it since the version that is named. */
export const PUT: RequestHandler = ({ request, params, locals }) =>
  asked(request, changedBoardSchema, async (board) => {
    const kept = await keepBoard(bussola(), Number(params.id), board, locals.person?.displayName ?? '');
    switch (kept.kind) {
      case 'kept':
        return json(kept.board);
      case 'gone':
        return json(noSuchBoard, { status: 404 });
      case 'changed meanwhile':
        return json(
          {
            message: `${kept.board.changedBy} changed this board meanwhile.`,
            remedy: 'Make the change on what is there now.',
            board: kept.board
          },
          { status: 409 }
        );
    }
  });

export const DELETE: RequestHandler = async ({ params }) => {
  await removeBoard(bussola().db, Number(params.id));
  return new Response(null, { status: 204 });
};
