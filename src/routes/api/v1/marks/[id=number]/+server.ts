import { json } from '@sveltejs/kit';
import { permitFor } from '$server/boards/permit';
import { markById, removeMark } from '$server/marks/marks';
import { bussola } from '$server/process/running';
import type { RequestHandler } from './$types';

/** Takes a mark away; one on a board that the person may not see is not there for them. */
export const DELETE: RequestHandler = async ({ params, locals }) => {
  const { db, changes } = bussola();
  const mark = await markById(db, Number(params.id));
  const board = mark?.board ?? null;
  if (mark === null || (board !== null && (await permitFor(db, locals.person, board, 'view')).kind === 'no'))
    return json(
      { message: 'There is no such mark.', remedy: 'Somebody may have taken it away before.' },
      { status: 404 }
    );
  await removeMark(db, mark.id);
  changes.tell('mark', { markId: mark.id, boardId: board });
  return new Response(null, { status: 204 });
};
