import { asked } from '$server/asked';
import { answerQueries, queriesSchema } from '$server/query';
import { bussola } from '$server/running';
import type { RequestHandler } from './$types';

/** Evaluates the signals of a board together: `{ signals, from, to, cells? }` in, a list out with an answer or a fault for each. */
export const POST: RequestHandler = ({ request }) =>
  asked(
    request,
    queriesSchema,
    async (queries) =>
      new Response((await answerQueries(bussola(), queries)) as Uint8Array<ArrayBuffer>, {
        headers: { 'content-type': 'application/json' }
      })
  );
