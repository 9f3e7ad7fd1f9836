import { json } from '@sveltejs/kit';
import { asked } from '$server/http/asked';
import { authorOf } from '$server/boards/boards';
import { changedSignalSchema, changeSignal } from '$server/boards/keep';
import { permitted } from '$server/boards/permit';
import { bussola } from '$server/process/running';
import type { RequestHandler } from './$types';

/** Puts another signal in the place of a panel's: `{ signal }` in, the board out. */
export const PUT: RequestHandler = ({ request, params, locals: { person } }) =>
  permitted(bussola().db, person, Number(params.id), 'edit', ({ id }) =>
    asked(request, changedSignalSchema, async ({ signal }) => {
      const kept = await changeSignal(bussola(), id, params.panel, signal, authorOf(person));
      return kept === null
        ? json(
            {
              message: 'The panel is not on the board any more.',
              remedy: 'Send the signal to the board as a new one.'
            },
            { status: 404 }
          )
        : json(kept);
    })
  );
