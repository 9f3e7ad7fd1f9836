import { isRefused, problemOf } from '$lib/core/problem/problem';
import { eventStream } from '$server/http/event-stream';
import { followSearch } from '$server/logs/ask';
import { lineRight, requireLines } from '$server/people/line-access';
import { bussola } from '$server/process/running';
import type { RequestHandler } from './$types';

/** While nothing comes, it is said so often that it still follows. */
const quietSays = 20;

/** Server-sent events: `following` once what comes from now on is among what is sent; `lines` with what has come of a search since the last time, as long as somebody follows; `refused` for a search that cannot be read, or while too many are followed. */
export const GET: RequestHandler = ({ url, request, locals: { person, session } }) => {
  const server = bussola();
  return eventStream(request, server, session, async (send, signal) => {
    try {
      const accounts = requireLines(await lineRight.of(server.db, person));
      const asked = { text: url.searchParams.get('q') ?? '', accounts };
      let quiet = 0;
      let isFirst = true;
      for await (const followed of followSearch(server, asked, signal)) {
        if (isFirst) send('following', {});
        isFirst = false;
        const isNews = followed.lines.length > 0 || followed.skipped > 0;
        quiet = isNews ? 0 : quiet + 1;
        if (!isNews && quiet < quietSays) continue;
        quiet = 0;
        send('lines', followed);
      }
      send('done', {});
    } catch (error) {
      if (isRefused(error, 'search-invalid', 'busy', 'not-allowed')) send('refused', problemOf(error));
      else {
        server.log.error({ err: error }, 'lines could not be followed');
        send('failed', {});
      }
    }
  });
};
