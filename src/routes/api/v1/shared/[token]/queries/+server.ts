import { json } from '@sveltejs/kit';
import { asked } from '$server/http/asked';
import { countMiss, countUse } from '$server/boards/link-limits';
import { boardOfLink } from '$server/boards/links';
import { noSuchLink } from '$server/boards/missing';
import { sharedQueries, sharedQueriesSchema } from '$server/boards/shared';
import { answerQueries } from '$server/query/query';
import { forReader } from '$server/http/reader';
import { bussola } from '$server/process/running';
import type { RequestHandler } from './$types';

/** Evaluates signals of the board of a link, and of nothing else: `{ asks, from, to, cells? }` in, a list out. */
export const POST: RequestHandler = (event) =>
  asked(event.request, sharedQueriesSchema, async (asks) => {
    const server = bussola();
    const link = await boardOfLink(server.db, event.params.token, server.clock.now());
    if (link === null) {
      await countMiss(event.locals.address);
      return json(noSuchLink, { status: 404 });
    }
    await countUse(link.id);
    const queries = await sharedQueries(server.db, link, asks);
    const bytes = await forReader(event, (reader) => answerQueries(server, queries, reader), `link ${link.id}`);
    return new Response(bytes as Uint8Array<ArrayBuffer>, { headers: { 'content-type': 'application/json' } });
  });
