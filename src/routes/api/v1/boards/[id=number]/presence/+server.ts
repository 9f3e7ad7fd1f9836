import { json } from '@sveltejs/kit';
import { z } from 'zod';
import { asked } from '$server/http/asked';
import { noSuchBoard } from '$server/boards/missing';
import { permitted } from '$server/boards/permit';
import { visitBoard } from '$server/boards/visits';
import { bussola } from '$server/process/running';
import type { RequestHandler } from './$types';

const hereSchema = z.strictObject({ editing: z.boolean(), panel: z.string().max(40).nullable() });

/** Says that the person is on the board: `{ editing, panel }` in, the others who are there out. */
export const POST: RequestHandler = ({ request, params, locals: { person } }) =>
  permitted(bussola().db, person, Number(params.id), 'view', ({ id }) =>
    asked(request, hereSchema, async (here) => {
      const { db, clock } = bussola();
      const others = await visitBoard(db, id, { id: person?.id ?? 0, ...here }, clock.now());
      return others === null ? json(noSuchBoard, { status: 404 }) : json({ others });
    })
  );
