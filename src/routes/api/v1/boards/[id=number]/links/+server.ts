import { json } from '@sveltejs/kit';
import { z } from 'zod';
import { day, times, after } from '$lib/core/time';
import { asked } from '$server/http/asked';
import { makeLink } from '$server/boards/links';
import { permitted } from '$server/boards/permit';
import { bussola } from '$server/process/running';
import type { RequestHandler } from './$types';

const linkSchema = z.strictObject({
  /** How long anybody who has the link may see the board. */
  days: z.int().min(1).max(365),
  choices: z.record(z.string().max(40), z.array(z.string().max(200)).max(200)).default({})
});

/** Makes a link by which anybody may see the board: `{ days, choices }` in, its address out, once. */
export const POST: RequestHandler = ({ request, params, locals }) =>
  permitted(bussola().db, locals.person, Number(params.id), 'govern', ({ id }) =>
    asked(request, linkSchema, async ({ days, choices }) => {
      const { db, clock, origin } = bussola();
      const now = clock.now();
      const expiresAt = after(now, times(days, day));
      const { id: link, token } = await makeLink(db, id, choices, expiresAt, locals.person?.displayName ?? '', now);
      return json({ id: link, expiresAt, address: `${origin}/shared/${token}` }, { status: 201 });
    })
  );
