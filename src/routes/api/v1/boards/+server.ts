import { json } from '@sveltejs/kit';
import { asked } from '$server/http/asked';
import { authorOf } from '$server/boards/boards';
import { makeBoard, newBoardSchema } from '$server/boards/keep';
import { summariesFor } from '$server/boards/permit';
import { bussola } from '$server/process/running';
import type { RequestHandler } from './$types';

/** The boards that the person may see, without what is on them: each is asked for by its id. */
export const GET: RequestHandler = async ({ locals }) =>
  json({ boards: (await summariesFor(bussola().db, locals.person)).map(({ board, may }) => ({ ...board, may })) });

/** Makes a board: `{ title, panels }` or a whole board in, the kept one out. */
export const POST: RequestHandler = ({ request, locals: { person } }) =>
  asked(request, newBoardSchema, async (board) => {
    return json(await makeBoard(bussola(), board, authorOf(person)), { status: 201 });
  });
