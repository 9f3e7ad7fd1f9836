import { json } from '@sveltejs/kit';
import { asked } from '$server/asked';
import { addPanel, newPanelSchema } from '$server/boards/keep';
import { noSuchBoard } from '$server/boards/missing';
import { bussola } from '$server/running';
import type { RequestHandler } from './$types';

/** Puts a signal on a board: `{ title, signal }` in, the board out. */
export const POST: RequestHandler = ({ request, params, locals }) =>
  asked(request, newPanelSchema, async (panel) => {
    const kept = await addPanel(bussola(), Number(params.id), panel, locals.person?.displayName ?? '');
    return kept === null ? json(noSuchBoard, { status: 404 }) : json(kept, { status: 201 });
  });
