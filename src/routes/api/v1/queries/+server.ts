import { asked } from '$server/asked';
import { answerQueries, queriesSchema } from '$server/query';
import { forReader } from '$server/reader';
import { bussola } from '$server/running';
import type { RequestHandler } from './$types';

/** Evaluates the signals of a board together: `{ signals, from, to, cells? }` in, a list out with an answer or a fault for each. */
export const POST: RequestHandler = (event) =>
  asked(event.request, queriesSchema, async (queries) => {
    const bytes = await forReader(event, (reader) => answerQueries(bussola(), queries, reader));
    return new Response(bytes as Uint8Array<ArrayBuffer>, { headers: { 'content-type': 'application/json' } });
  });
