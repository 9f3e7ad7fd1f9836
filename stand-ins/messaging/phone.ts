import type { FastifyInstance } from 'fastify';
import type { StandInClock } from '../clock';
import { page, safe } from '../page';
import { Behaving, behaviourForm, behaviourRoute } from './behaviour';
import { linked } from './chat';
import { Received } from './received';

/** What signs in at the gateway. */
export const gatewayToken = 'corallo-text';

export interface TextMessage {
  readonly at: number;
  readonly id: string;
  readonly to: string;
  readonly text: string;
}

export interface Phone {
  readonly messages: Received<TextMessage>;
  readonly behaving: Behaving;
}

export const makePhone = (): Phone => ({ messages: new Received(), behaving: new Behaving() });

/** A gateway for text messages at `POST /phone/messages`, and the telephones of everyone at `/phone`. A message with an id that it knows is taken once. */
export function phonePages(
  app: FastifyInstance,
  { phone, clock }: { phone: Phone; clock: StandInClock },
  done: () => void
): void {
  const { messages, behaving } = phone;
  app.post('/phone/messages', async (request, reply) => {
    if (!(await behaving.mayTake(reply))) return reply;
    if (request.headers.authorization !== `Bearer ${gatewayToken}`)
      return reply.status(401).send({ error: 'the token is wrong' });
    const { to, text, id } = (request.body ?? {}) as Partial<TextMessage>;
    if (!/^\+\d{6,15}$/.test(to ?? '') || typeof text !== 'string' || typeof id !== 'string')
      return reply.status(400).send({ error: 'the JSON needs "to", "text" and "id"' });
    if ([...text].length > 160) return reply.status(400).send({ error: 'the text is longer than 160 characters' });
    if (!messages.all.some((one) => one.id === id)) messages.add({ at: clock(), id, to: to ?? '', text });
    if (behaving.cuts(reply)) return reply;
    return reply.status(202).send({ accepted: id });
  });
  app.get('/phone/messages', () => messages.all);
  app.get('/phone', (_request, reply) => {
    const rows = messages.all.map(
      ({ at, to, text }) =>
        `<tr><td>${safe(new Date(at).toISOString().slice(11, 19))} UTC</td><td>${safe(to)}</td><td>${linked(text)}</td></tr>`
    );
    const list = rows.length ? `<table><tbody>${rows.join('')}</tbody></table>` : '<p>No text message yet.</p>';
    return reply.type('text/html').send(page('Telephones of Corallo Lines', behaviourForm('/phone', behaving) + list));
  });
  behaviourRoute(app, '/phone', behaving);
  done();
}
