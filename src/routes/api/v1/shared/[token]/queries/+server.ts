import { json } from '@sveltejs/kit';
import { RateLimiterMemory, RateLimiterRes } from 'rate-limiter-flexible';
import { asked } from '$server/asked';
import { boardOfLink } from '$server/boards/links';
import { noSuchLink } from '$server/boards/missing';
import { sharedQueries, sharedQueriesSchema } from '$server/boards/shared';
import { answerQueries } from '$server/query';
import { bussola } from '$server/running';
import type { RequestHandler } from './$types';

/** Requests that one link may make in a minute, over all who have it. */
const perLink = new RateLimiterMemory({ points: 240, duration: 60 });

/** Evaluates signals of the board of a link, and of nothing else: `{ asks, from, to, cells? }` in, a list out. */
export const POST: RequestHandler = async ({ request, params }) => {
  const server = bussola();
  const link = await boardOfLink(server.db, params.token, server.clock.now());
  if (link === null) return json(noSuchLink, { status: 404 });
  try {
    await perLink.consume(String(link.board.id));
  } catch (refused) {
    if (!(refused instanceof RateLimiterRes)) throw refused;
    return json(
      { message: 'This link is read by too many at once.', remedy: 'It reads again in a minute.' },
      { status: 429 }
    );
  }
  return asked(request, sharedQueriesSchema, async (asks) => {
    const queries = await sharedQueries(server.db, link, asks);
    return new Response((await answerQueries(server, queries)) as Uint8Array<ArrayBuffer>, {
      headers: { 'content-type': 'application/json' }
    });
  });
};
