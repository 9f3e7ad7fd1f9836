import { permitFor } from '$server/boards/permit';
import { eventStream } from '$server/http/event-stream';
import { liveNews } from '$server/process/live-news';
import { bussola } from '$server/process/running';
import type { RequestHandler } from './$types';

/** Real time between two ticks, so that a browser notices a dead connection and knows the time. */
const tickMs = 1000;

/**
 * Server-sent events: `tick` with the server's time, and one event for each change; all carry the count of changes, so that a browser sees when it missed one. A change that the person may not see is told as `other`,
 * without what it is.
 */
export const GET: RequestHandler = ({ request, locals: { session } }) => {
  const server = bussola();
  const { changes, clock, db } = server;
  return eventStream(
    request,
    server,
    session,
    (send, signal) =>
      new Promise((done) => {
        const news = liveNews({
          changes,
          maySee: async (boardId) => (await permitFor(db, session?.person ?? null, boardId, 'view')).kind === 'yes',
          send
        });
        const tick = () => send('tick', { now: clock.now(), version: changes.version });
        const timer = setInterval(tick, tickMs);
        signal.addEventListener('abort', () => {
          clearInterval(timer);
          news.stop();
          done();
        });
        tick();
      })
  );
};
