import { error } from '@sveltejs/kit';
import type { Clock, Instant } from '$lib/core/time';
import type { Changes } from '../base/changes';

/** Sends one server-sent event. */
export type SendEvent = (event: string, data: object) => void;

/** Of a session, what ends with it. */
interface Ends {
  readonly key: string;
  readonly expiresAt: Instant;
}

/** How often, in real time, it is looked whether a session has run out, ms. */
const lookEveryMs = 1000;

/**
 * A response of server-sent events for somebody who is signed in. It ends with the work, when the other side closes it, and when the session does: the work hears of both by the signal.
 *
 * @param work what it throws is its own to say
 */
export function eventStream(
  request: Request,
  { changes, clock }: { readonly changes: Changes; readonly clock: Clock },
  session: Ends | null,
  work: (send: SendEvent, signal: AbortSignal) => Promise<void>
): Response {
  if (session === null) error(401, { message: 'You are not signed in.', remedy: 'Sign in, then try again.' });
  const encoder = new TextEncoder();
  const ending = new AbortController();
  const end = () => ending.abort();
  let isCancelled = false;
  const stream = new ReadableStream<Uint8Array>({
    async start(controller) {
      const onSession = ({ key }: { key: string }) => key === session.key && end();
      changes.on('session', onSession);
      const timer = setInterval(() => clock.now() >= session.expiresAt && end(), lookEveryMs);
      request.signal.addEventListener('abort', end);
      if (request.signal.aborted) end();
      try {
        if (!ending.signal.aborted)
          await work((event, data) => {
            if (!ending.signal.aborted)
              controller.enqueue(encoder.encode(`event: ${event}\ndata: ${JSON.stringify(data)}\n\n`));
          }, ending.signal);
      } finally {
        clearInterval(timer);
        changes.off('session', onSession);
        request.signal.removeEventListener('abort', end);
      }
      if (!isCancelled) controller.close();
    },
    cancel: () => {
      isCancelled = true;
      end();
    }
  });
  return new Response(stream, {
    headers: { 'content-type': 'text/event-stream', 'cache-control': 'no-store', 'x-accel-buffering': 'no' }
  });
}
