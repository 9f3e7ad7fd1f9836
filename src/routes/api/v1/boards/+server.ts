import { json } from '@sveltejs/kit';
import { asked } from '$server/asked';
import { makeBoard, newBoardSchema } from '$server/boards/keep';
import { boardsFor } from '$server/boards/permit';
import { bussola } from '$server/running';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = async ({ locals }) => json({ boards: await boardsFor(bussola().db, locals.person) });

/** Makes a board: `{ title, panels }` or a whole board in, the kept one out. */
export const POST: RequestHandler = ({ request, locals: { person } }) =>
  asked(request, newBoardSchema, async (board) => {
    const by = { id: person?.id ?? null, displayName: person?.displayName ?? '' };
    return json(await makeBoard(bussola(), board, by), { status: 201 });
  });
