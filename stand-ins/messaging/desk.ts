import { HTTP, type CloudEvent } from 'cloudevents';
import type { FastifyInstance } from 'fastify';
import { Webhook } from 'standardwebhooks';
import type { StandInClock } from '../clock';
import { page, safe } from '../page';
import { Behaving, behaviourForm, behaviourRoute } from './behaviour';
import { Received } from './received';

export interface DeskEvent {
  readonly at: number;
  readonly id: string;
  readonly type: string;
  readonly mode: 'structured' | 'binary';
  /** Whether the signature was checked and right; null while the desk knows no secret. */
  readonly verified: boolean | null;
  readonly summary: string;
  /** The code that confirms the channel, of an event that asks for it. */
  readonly text: string;
}

export interface Desk {
  readonly events: Received<DeskEvent>;
  readonly behaving: Behaving;
  /** When heartbeats came, the newest first. */
  readonly heartbeats: Received<{ readonly at: number; readonly source: string }>;
  /** Secret to verify with, as Bussola shows it once. */
  secret: string | null;
}

export const makeDesk = (): Desk => ({
  events: new Received(),
  heartbeats: new Received(),
  behaving: new Behaving(),
  secret: null
});

/** A receiver of signed webhooks at `POST /desk/events`: it checks signatures by the standard's own library and reads events by their own. One that it has already is taken once. */
export function deskPages(
  app: FastifyInstance,
  { desk, clock }: { desk: Desk; clock: StandInClock },
  done: () => void
): void {
  const { events, heartbeats, behaving } = desk;
  void app.register((scope, _options, ready) => {
    // A signature is of the bytes that were sent.
    scope.removeAllContentTypeParsers();
    scope.addContentTypeParser('*', { parseAs: 'string' }, (_request, body, next) => next(null, body));
    scope.post('/desk/events', async (request, reply) => {
      if (!(await behaving.mayTake(reply))) return reply;
      const body = String(request.body);
      const headers = request.headers as Record<string, string>;
      const verified = desk.secret === null ? null : verifies(desk.secret, body, headers, clock());
      if (verified === false) return reply.status(401).send({ error: 'the signature is wrong' });
      const event = HTTP.toEvent({ headers, body }) as CloudEvent<{ summary?: string; text?: string }>;
      const id = headers['webhook-id'] ?? '';
      const mode = (headers['content-type'] ?? '').startsWith('application/cloudevents') ? 'structured' : 'binary';
      const { summary = '', text = '' } = event.data ?? {};
      if (!events.all.some((one) => one.id === id))
        events.add({ at: clock(), id, type: event.type, mode, verified, summary, text });
      if (behaving.cuts(reply)) return reply;
      return reply.status(204).send();
    });
    // Whoever expects heartbeats notices when none comes.
    scope.post('/desk/heartbeat', async (request, reply) => {
      if (!(await behaving.mayTake(reply))) return reply;
      const event = HTTP.toEvent({
        headers: request.headers,
        body: String(request.body)
      }) as CloudEvent<object>;
      heartbeats.add({ at: clock(), source: event.source });
      return reply.status(204).send();
    });
    ready();
  });
  app.get('/desk/events', () => events.all);
  app.post('/desk/secret', (request, reply) => {
    const { secret } = (request.body ?? {}) as { secret?: string };
    desk.secret = secret === undefined || secret.trim() === '' ? null : secret.trim();
    return reply.redirect('/desk');
  });
  app.get('/desk', (_request, reply) => {
    const rows = events.all.map(
      ({ at, type, verified, summary, text }) =>
        `<tr><td>${safe(new Date(at).toISOString().slice(11, 19))} UTC</td><td>${safe(type)}</td><td>${verified === null ? 'not checked' : 'signature verified'}</td><td>${safe(summary)}<br><span class="quiet">${safe(text)}</span></td></tr>`
    );
    const list = rows.length ? `<table><tbody>${rows.join('')}</tbody></table>` : '<p>No event yet.</p>';
    const form = `<form method="post" action="/desk/secret"><label>Secret to verify with <input name="secret" size="60" value="${safe(desk.secret ?? '')}"></label><button>Save</button></form>`;
    const [newest] = heartbeats.all;
    const beat = `<p>${newest === undefined ? 'No heartbeat yet.' : `Last heartbeat at ${safe(new Date(newest.at).toISOString().slice(11, 19))} UTC from ${safe(newest.source)}.`}</p>`;
    return reply
      .type('text/html')
      .send(page('Ferry desk, a receiver of webhooks', behaviourForm('/desk', behaving) + form + beat + list));
  });
  behaviourRoute(app, '/desk', behaving);
  done();
}

/** How old a request may be: older ones may be replayed. */
const toleranceMs = 5 * 60_000;

/** Whether a request is signed with the secret and recent, by the clock that everything here goes by. */
function verifies(secret: string, body: string, headers: Record<string, string>, now: number): boolean {
  const at = Number(headers['webhook-timestamp']) * 1000;
  if (!(Math.abs(now - at) <= toleranceMs)) return false;
  const signature = new Webhook(secret).sign(headers['webhook-id'] ?? '', new Date(at), body);
  return (headers['webhook-signature'] ?? '').split(' ').includes(signature);
}
