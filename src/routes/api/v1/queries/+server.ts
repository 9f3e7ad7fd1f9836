import { asked } from '$server/http/asked';
import { answerQueries, queriesSchema } from '$server/query/query';
import { forReader } from '$server/http/reader';
import { bussola } from '$server/process/running';
import type { RequestHandler } from './$types';

/** Evaluates the signals of a board together: `{ signals, from, to, cells? }` in, a list out with an answer or a fault for each. */
export const POST: RequestHandler = (event) =>
  asked(event.request, queriesSchema, async (queries) => {
    const bytes = await forReader(event, (reader) => answerQueries(bussola(), queries, reader));
    return new Response(bytes as Uint8Array<ArrayBuffer>, { headers: { 'content-type': 'application/json' } });
  });
