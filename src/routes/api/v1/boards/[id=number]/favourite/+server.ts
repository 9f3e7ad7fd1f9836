import { json } from '@sveltejs/kit';
import { z } from 'zod';
import { asked } from '$server/http/asked';
import { setFavourite } from '$server/boards/at-hand';
import { permitted } from '$server/boards/permit';
import { bussola } from '$server/process/running';
import type { RequestHandler } from './$types';

/** Keeps the board at hand for the person, or no more: `{ favourite }` in and out. */
export const PUT: RequestHandler = ({ request, params, locals: { person } }) =>
  permitted(bussola().db, person, Number(params.id), 'view', ({ id }) =>
    asked(request, z.strictObject({ favourite: z.boolean() }), async ({ favourite }) => {
      await setFavourite(bussola().db, id, person?.id ?? 0, favourite);
      return json({ favourite });
    })
  );
