import type { FastifyInstance, FastifyReply, FastifyRequest } from 'fastify';
import type { StandInClock } from '../clock';
import { fetchPage, type SeriesName } from './fetch';
import { isMood } from './moods';
import { levantePage } from './page';
import { verify } from './signature';
import type { LevanteState } from './state';
import { machines, metrics, type Credential } from './world';

export interface LevanteOptions {
  readonly seed: number;
  readonly clock: StandInClock;
  readonly state: LevanteState;
}

const hour = 3_600_000;
const mostSeries = 500;

/**
 * Levante's interface: signed JSON over HTTP under `/levante/v1`, problems as RFC 9457, and a page for people at `/levante`.
 *
 * @example await app.register(levante, { seed: 1, clock: standInClock(), state: new LevanteState() })
 */
export function levante(app: FastifyInstance, { seed, clock, state }: LevanteOptions, done: () => void): void {
  const itsClock = () => clock() + (state.mood === 'clock-ahead' ? hour : 0);

  /** The credential behind a request, or null when the reply already says why not. */
  async function admitted(request: FastifyRequest, reply: FastifyReply, right: Credential['rights'][number]) {
    if (state.mood === 'down') return refuse(reply, 503, 'unavailable', 'Levante is being mended.');
    if (state.mood === 'throttled') {
      void reply.header('retry-after', '30');
      return refuse(reply, 429, 'throttled', 'Too many requests; try again in 30 s.');
    }
    const verdict = await verify(
      {
        method: request.method,
        url: `http://${request.headers.host}${request.url}`,
        headers: request.headers as Record<string, string | string[]>,
        body: (request as { rawBody?: Buffer }).rawBody ?? null
      },
      itsClock()
    );
    switch (verdict.kind) {
      case 'refused':
        return refuse(reply, 401, 'signature', verdict.reason);
      case 'clock':
        return refuse(reply, 401, 'clock', 'The signature’s time is more than 5 min from this clock.', {
          now: iso(itsClock())
        });
      case 'accepted':
        if (verdict.credential.rights.includes(right)) return verdict.credential;
        return refuse(reply, 403, 'right', `The key ${verdict.credential.keyId} lacks the right ${right}.`, { right });
      default:
        throw new TypeError(`admitted: unknown verdict ${JSON.stringify(verdict satisfies never)}`);
    }
  }

  app.addContentTypeParser('application/json', { parseAs: 'buffer' }, (request, body, parsed) => {
    (request as { rawBody?: Buffer }).rawBody = body as Buffer;
    try {
      parsed(null, JSON.parse(body.toString('utf8')));
    } catch (error) {
      parsed(error as Error);
    }
  });

  app.get('/levante/v1/resources', async (request, reply) => {
    const credential = await admitted(request, reply, 'resources.list');
    if (!credential) return reply;
    const found = machines.filter(({ account }) => account === credential.account);
    return { account: credential.account, resources: found.map(({ role: _role, ...shown }) => shown), next: null };
  });

  app.get('/levante/v1/metrics', async (request, reply) => {
    const credential = await admitted(request, reply, 'resources.list');
    return credential
      ? { metrics: metrics.map((metric) => ({ ...metric, resourceType: 'machine' })), next: null }
      : reply;
  });

  app.post('/levante/v1/points', async (request, reply) => {
    const credential = await admitted(request, reply, 'metrics.read');
    if (!credential) return reply;
    const body = request.body as { series?: unknown; from?: unknown; to?: unknown; page?: unknown };
    const from = Date.parse(String(body.from));
    const to = Date.parse(String(body.to));
    const wanted = Array.isArray(body.series) ? (body.series as SeriesName[]) : [];
    if (Number.isNaN(from) || Number.isNaN(to) || wanted.length === 0 || wanted.length > mostSeries)
      return refuse(reply, 400, 'request', `Give from, to and 1 to ${mostSeries} series.`) ?? reply;
    const foreign = wanted.find(
      ({ resource }) => !machines.some(({ id, account }) => id === resource && account === credential.account)
    );
    if (foreign)
      return refuse(reply, 404, 'resource', `No resource "${foreign.resource}" in ${credential.account}.`) ?? reply;
    let page;
    try {
      page = fetchPage(
        seed,
        wanted,
        from,
        to,
        clock(),
        state.stresses,
        typeof body.page === 'string' ? body.page : null
      );
    } catch (error) {
      if (error instanceof RangeError) return refuse(reply, 400, 'page', error.message) ?? reply;
      throw error;
    }
    void reply.type('application/json');
    const text = JSON.stringify(page);
    if (state.mood === 'malformed') return text.slice(0, Math.ceil(text.length / 2));
    if (state.mood === 'not-a-number') return JSON.stringify(withABadValue(page));
    return text;
  });

  app.get('/levante', (request, reply) =>
    reply.type('text/html').send(levantePage(state, clock(), request.query as Record<string, string>))
  );

  app.post('/levante/desk/stress', (request, reply) => {
    const { resource = '', metric = '', value = '', minutes = '' } = request.body as Record<string, string>;
    const now = clock();
    const machine = machines.find(({ id }) => id === resource);
    const length = Number(minutes);
    const drawnTo = value === 'silence' ? null : Number(value);
    const known = metric === 'all' || metrics.some(({ name }) => name === metric);
    if (!machine || !known || !(length > 0 && length <= 1440) || Number.isNaN(drawnTo) || value === '')
      return refuse(reply, 400, 'stress', 'Give a resource, a metric, a value and 1 to 1440 minutes.') ?? reply;
    state.stress({ resource, metric, value: drawnTo, from: now, until: now + length * 60_000 });
    return reply.redirect(`/levante?done=${encodeURIComponent(`${machine.name} is stressed for ${length} min.`)}`, 303);
  });

  app.post('/levante/desk/relieve', (request, reply) => {
    state.relieve(String((request.body as Record<string, string>).resource), clock());
    return reply.redirect('/levante?done=The%20stress%20has%20ended.', 303);
  });

  app.post('/levante/desk/mood', (request, reply) => {
    const { mood } = request.body as Record<string, string>;
    if (!isMood(mood)) return refuse(reply, 400, 'mood', `No mood "${String(mood)}".`) ?? reply;
    state.mood = mood;
    return reply.redirect('/levante', 303);
  });
  done();
}

/** Replies with a problem (RFC 9457) and yields null, so that callers can pass it on. */
function refuse(reply: FastifyReply, status: number, problem: string, detail: string, more: object = {}): null {
  void reply
    .status(status)
    .type('application/problem+json')
    .send({ type: `urn:levante:problem:${problem}`, status, detail, ...more });
  return null;
}

function withABadValue(page: ReturnType<typeof fetchPage>): unknown {
  return {
    ...page,
    series: page.series.map((s) => ({
      ...s,
      points: s.points.map((p, i) => (i === 0 ? [p[0], 'n/a', p[2], p[3], p[4]] : p))
    }))
  };
}

const iso = (milliseconds: number): string => new Date(milliseconds).toISOString();
