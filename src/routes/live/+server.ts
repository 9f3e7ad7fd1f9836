import { bussola } from '$server/running';
import type { ChangeMap } from '$server/changes';

/** Real time between two ticks, so that a browser notices a dead connection and knows the time. */
const tickMs = 1000;

/** Server-sent events: `tick` with the server's time, and one event for each change. */
export const GET = () => {
  const { changes, clock } = bussola();
  const encoder = new TextEncoder();
  let stop = () => {};
  const stream = new ReadableStream<Uint8Array>({
    start(controller) {
      const send = (event: string, data: object) => controller.enqueue(encoder.encode(`event: ${event}\ndata: ${JSON.stringify(data)}\n\n`));
      const listeners = (['samples', 'account', 'alarm', 'outbox'] as const).map((name: keyof ChangeMap) => {
        const listener = (data: object) => send(name, data);
        changes.on(name, listener);
        return () => changes.off(name, listener);
      });
      const timer = setInterval(() => send('tick', { now: clock.now() }), tickMs);
      stop = () => {
        clearInterval(timer);
        for (const off of listeners) off();
      };
      send('tick', { now: clock.now() });
    },
    cancel: () => stop()
  });
  return new Response(stream, { headers: { 'content-type': 'text/event-stream', 'cache-control': 'no-store', 'x-accel-buffering': 'no' } });
};
