import { isRefused, problemOf } from '$lib/core/problem/problem';
import { range, resolveRange, shownRangeFrom, type Range } from '$lib/core/time';
import { barStep } from '$lib/core/logs';
import { eventStream } from '$server/http/event-stream';
import { searchLines } from '$server/logs/ask';
import { lineRight, requireLines } from '$server/people/line-access';
import { bussola } from '$server/process/running';
import type { RequestHandler } from './$types';

/** Lines that a page shows at once, and how often it hears how far a search has come, ms. */
const most = 200;
const sayEveryMs = 200;

/** Server-sent events: `progress` with what a search has found so far, newest first, again and again until it is `done`; `refused` for a search that cannot be read, or while too many are under way. Whoever closes it ends the search. */
export const GET: RequestHandler = ({ url, request, locals: { person, session } }) => {
  const server = bussola();
  const within = resolveRange(shownRangeFrom(url.searchParams), server.clock.now());
  const step = barStep(within);
  return eventStream(request, server, session, async (send, signal) => {
    try {
      const accounts = requireLines(await lineRight.of(server.db, person));
      const asked = { text: url.searchParams.get('q') ?? '', range: upTo(within), most, step, accounts };
      let saidAt = -Infinity;
      for await (const progress of searchLines(server, asked, () => !signal.aborted)) {
        if (!progress.isDone && performance.now() - saidAt < sayEveryMs) continue;
        saidAt = performance.now();
        send('progress', { ...progress, from: within.from, to: within.to, step });
      }
      send('done', {});
    } catch (error) {
      if (isRefused(error, 'search-invalid', 'busy', 'not-allowed')) send('refused', problemOf(error));
      else {
        server.log.error({ err: error }, 'lines could not be searched');
        send('failed', {});
      }
    }
  });
};

/** Lines of this very moment belong to what is shown up to now. */
const upTo = ({ from, to }: Range): Range => range(from, (to + 1) as typeof to);
