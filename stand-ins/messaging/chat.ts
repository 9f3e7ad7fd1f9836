import type { FastifyInstance } from 'fastify';
import type { StandInClock } from '../clock';
import { page, safe } from '../page';
import { Behaving, behaviourForm, behaviourRoute } from './behaviour';
import { Received } from './received';

/** Whoever knows the rest of the address may post into the room. */
const hooks: Readonly<Record<string, string>> = { 'T5p0rt-bridge-7Qd2': '#bridge' };

export interface ChatPost {
  readonly at: number;
  readonly room: string;
  readonly text: string;
  /** The whole JSON that was posted. */
  readonly body: unknown;
}

export interface Chat {
  readonly posts: Received<ChatPost>;
  readonly behaving: Behaving;
}

export const makeChat = (): Chat => ({ posts: new Received(), behaving: new Behaving() });

/** The chat rooms of Corallo Lines at `/chat`: `POST /chat/hooks/…` takes `{ "text": … }`, or `{ "content": { "body": … } }` as other programs want it. */
export function chatPages(
  app: FastifyInstance,
  { chat, clock }: { chat: Chat; clock: StandInClock },
  done: () => void
): void {
  const { posts, behaving } = chat;
  app.post('/chat/hooks/:hook', async (request, reply) => {
    if (!(await behaving.mayTake(reply))) return reply;
    const room = hooks[(request.params as { hook: string }).hook];
    if (room === undefined) return reply.status(404).send({ error: 'no such hook' });
    const text = textOf(request.body);
    if (text === null) return reply.status(400).send({ error: 'the JSON needs "text", or "content" with a "body"' });
    posts.add({ at: clock(), room, text, body: request.body });
    if (behaving.cuts(reply)) return reply;
    return reply.status(204).send();
  });
  app.get('/chat/posts', () => posts.all);
  app.get('/chat', (_request, reply) => {
    const rows = posts.all.map(
      ({ at, room, text }) =>
        `<tr><td>${safe(new Date(at).toISOString().slice(11, 19))} UTC</td><td>${safe(room)}</td><td>${linked(text)}</td></tr>`
    );
    const list = rows.length ? `<table><tbody>${rows.join('')}</tbody></table>` : '<p>Nothing was posted yet.</p>';
    return reply.type('text/html').send(page('Chat of Corallo Lines', behaviourForm('/chat', behaving) + list));
  });
  behaviourRoute(app, '/chat', behaving);
  done();
}

function textOf(body: unknown): string | null {
  const { text, content } = (body ?? {}) as { text?: unknown; content?: { body?: unknown } };
  if (typeof text === 'string') return text;
  return typeof content?.body === 'string' ? content.body : null;
}

/** Text in which addresses can be followed. */
export const linked = (text: string): string =>
  safe(text).replace(/https?:\/\/[^\s<&]+/g, (link) => `<a href="${link}">${link}</a>`);
