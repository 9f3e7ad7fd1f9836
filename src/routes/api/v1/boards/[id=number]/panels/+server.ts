import { json } from '@sveltejs/kit';
import { asked } from '$server/http/asked';
import { authorOf } from '$server/boards/boards';
import { addPanel, newPanelSchema } from '$server/boards/keep';
import { noSuchBoard } from '$server/boards/missing';
import { permitted } from '$server/boards/permit';
import { bussola } from '$server/process/running';
import type { RequestHandler } from './$types';

/** Puts a signal on a board: `{ title, signal, picture? }` in, the board out. */
export const POST: RequestHandler = ({ request, params, locals: { person } }) =>
  permitted(bussola().db, person, Number(params.id), 'edit', ({ id }) =>
    asked(request, newPanelSchema, async (panel) => {
      const kept = await addPanel(bussola(), id, panel, authorOf(person));
      return kept === null ? json(noSuchBoard, { status: 404 }) : json(kept, { status: 201 });
    })
  );
