import type { FastifyReply } from 'fastify';
import type { StandInClock } from '../clock';
import type { ProviderState } from './state';

const hour = 3_600_000;

/** The provider's own clock: an hour ahead in that fault mode. */
export const itsClock = (clock: StandInClock, state: ProviderState): number =>
  clock() + (state.faultMode === 'clock-ahead' ? hour : 0);

/** The newest moment whose points are visible: two hours back in that fault mode. */
export const visibleNow = (clock: StandInClock, state: ProviderState): number =>
  clock() - (state.faultMode === 'late' ? 2 * hour : 0);

/** Sends the text of a page as the fault mode requires it. */
export async function sendInMood(
  state: ProviderState,
  reply: FastifyReply,
  type: string,
  text: string
): Promise<FastifyReply> {
  void reply.type(type);
  const half = text.slice(0, Math.ceil(text.length / 2));
  if (state.faultMode === 'malformed') return reply.send(half);
  if (state.faultMode === 'nonsense')
    return reply.type('text/html').send('<html><body><h1>Under the sea</h1>{"series":</body></html>');
  if (state.faultMode === 'slow') await new Promise((next) => setTimeout(next, 2000));
  if (state.faultMode !== 'dropping') return reply.send(text);
  reply.hijack();
  reply.raw.writeHead(200, { 'content-type': type, 'content-length': Buffer.byteLength(text) });
  reply.raw.write(half, () => reply.raw.destroy());
  return reply;
}

/** Replies with a problem (RFC 9457) and yields null, so that callers can pass it on. */
export function refuse(reply: FastifyReply, status: number, problem: string, detail: string, more: object = {}): null {
  void reply
    .status(status)
    .type('application/problem+json')
    .send({ type: `urn:stand-in:problem:${problem}`, status, detail, ...more });
  return null;
}

/** What a fault mode answers before anything else is looked at; true when it has answered. */
export function refusedByMood(state: ProviderState, reply: FastifyReply): boolean {
  if (state.faultMode === 'down') refuse(reply, 503, 'unavailable', 'It is being mended.');
  else if (state.faultMode === 'throttled') {
    void reply.header('retry-after', '30');
    refuse(reply, 429, 'throttled', 'Too many requests; try again in 30 s.');
  } else return false;
  return true;
}

/** Cuts the connection without an answer. */
export function cutOff(reply: FastifyReply): FastifyReply {
  reply.hijack();
  reply.raw.destroy();
  return reply;
}
