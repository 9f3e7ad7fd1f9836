import { json } from '@sveltejs/kit';
import { asked } from '$server/asked';
import { bussola } from '$server/running';
import { matchSchema } from '$server/signals/matched';
import type { RequestHandler } from './$types';

/** What a pick selects and could choose from: `{ metric, where }` in, counts and the values of each label out. */
export const POST: RequestHandler = ({ request }) =>
  asked(request, matchSchema, async (pick) => json(await bussola().store.samples.matched(pick)));
