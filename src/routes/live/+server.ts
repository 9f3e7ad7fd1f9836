import { bussola } from '$server/running';
import type { ChangeMap } from '$server/changes';

/** Real time between two ticks, so that a browser notices a dead connection and knows the time. */
const tickMs = 1000;

/** Server-sent events: `tick` with the server's time, and one event for each change; both carry the count of changes, so that a browser sees when it missed one. */
export const GET = () => {
  const { changes, clock } = bussola();
  const encoder = new TextEncoder();
  let stop = () => {};
  const stream = new ReadableStream<Uint8Array>({
    start(controller) {
      const send = (event: string, data: object) =>
        controller.enqueue(encoder.encode(`event: ${event}\ndata: ${JSON.stringify(data)}\n\n`));
      const tick = () => send('tick', { now: clock.now(), version: changes.version });
      const listeners = (['samples', 'account', 'alarm', 'outbox', 'board', 'mark'] as const).map(
        (name: keyof ChangeMap) => {
          const listener = (data: object) => send(name, { ...data, version: changes.version });
          changes.on(name, listener);
          return () => changes.off(name, listener);
        }
      );
      const timer = setInterval(tick, tickMs);
      stop = () => {
        clearInterval(timer);
        for (const off of listeners) off();
      };
      tick();
    },
    cancel: () => stop()
  });
  return new Response(stream, {
    headers: { 'content-type': 'text/event-stream', 'cache-control': 'no-store', 'x-accel-buffering': 'no' }
  });
};
