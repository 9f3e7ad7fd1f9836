import { error } from '@sveltejs/kit';
import { permitFor } from '$server/boards/permit';
import { liveNews } from '$server/process/live-news';
import { bussola } from '$server/process/running';
import type { RequestHandler } from './$types';

/** Real time between two ticks, so that a browser notices a dead connection and knows the time. */
const tickMs = 1000;

/**
 * Server-sent events: `tick` with the server's time, and one event for each change; all carry the count of changes, so that a browser sees when it missed one. A change that the person may not see is told as `other`,
 * without what it is. They stop when the session ends.
 */
export const GET: RequestHandler = ({ locals: { session } }) => {
  if (session === null) error(401, { message: 'You are not signed in.', remedy: 'Sign in, then try again.' });
  const { changes, clock, db } = bussola();
  const encoder = new TextEncoder();
  let stop = () => {};
  const stream = new ReadableStream<Uint8Array>({
    start(controller) {
      const end = () => {
        stop();
        controller.close();
      };
      const send = (event: string, data: object) =>
        controller.enqueue(encoder.encode(`event: ${event}\ndata: ${JSON.stringify(data)}\n\n`));
      const news = liveNews({
        changes,
        maySee: async (boardId) => (await permitFor(db, session.person, boardId, 'view')).kind === 'yes',
        send
      });
      const tick = () =>
        clock.now() >= session.expiresAt ? end() : send('tick', { now: clock.now(), version: changes.version });
      const onSession = ({ key }: { key: string }) => key === session.key && end();
      changes.on('session', onSession);
      const timer = setInterval(tick, tickMs);
      stop = () => {
        clearInterval(timer);
        changes.off('session', onSession);
        news.stop();
      };
      tick();
    },
    cancel: () => stop()
  });
  return new Response(stream, {
    headers: { 'content-type': 'text/event-stream', 'cache-control': 'no-store', 'x-accel-buffering': 'no' }
  });
};
