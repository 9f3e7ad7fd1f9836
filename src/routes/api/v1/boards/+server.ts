import { json } from '@sveltejs/kit';
import { asked } from '$server/asked';
import { allBoards } from '$server/boards/boards';
import { makeBoard, newBoardSchema } from '$server/boards/keep';
import { bussola } from '$server/running';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = async () => json({ boards: await allBoards(bussola().db) });

/** Makes a board: `{ title, panels }` in, the kept one out. */
export const POST: RequestHandler = ({ request, locals }) =>
  asked(request, newBoardSchema, async (board) =>
    json(await makeBoard(bussola(), board, locals.person?.displayName ?? ''), { status: 201 })
  );
