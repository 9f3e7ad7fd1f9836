import { json } from '@sveltejs/kit';
import { asked } from '$server/http/asked';
import { authorOf, removeBoard } from '$server/boards/boards';
import { changedBoardSchema, keepBoard } from '$server/boards/keep';
import { noSuchBoard } from '$server/boards/missing';
import { permitted } from '$server/boards/permit';
import { bussola } from '$server/process/running';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = ({ params, locals }) =>
  permitted(bussola().db, locals.person, Number(params.id), 'view', (board) => json(board));

/** Changes the board; 409 with the board as it is when somebody changed it since the version that is named. */
export const PUT: RequestHandler = ({ request, params, locals }) =>
  permitted(bussola().db, locals.person, Number(params.id), 'edit', ({ id }) =>
    asked(request, changedBoardSchema, async (board) => {
      const kept = await keepBoard(bussola(), id, board, authorOf(locals.person));
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
    })
  );

export const DELETE: RequestHandler = ({ params, locals }) =>
  permitted(bussola().db, locals.person, Number(params.id), 'govern', async ({ id }) => {
    await removeBoard(bussola().db, id);
    return new Response(null, { status: 204 });
  });
