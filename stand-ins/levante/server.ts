import type { FastifyInstance, FastifyReply, FastifyRequest } from 'fastify';
import type { StandInClock } from '../clock';
import { dayFrom } from '../world/bills/charge';
import { carryOut, countNow, foretold, isStopped, progressOf, refusalOf, sizeNow } from '../world/acts';
import type { ActOrder } from '../world/act-kinds';
import { cutOff, itsClock, refuse, refusedByMood, sendInMood, visibleNow } from '../world/answers';
import type { ProviderState } from '../world/state';
import { renamedMachine } from '../world/troubles';
import { billPage } from './bills';
import { linesPage, sourcesOf } from './lines';
import { fetchPage, type FetchPage, type SeriesName } from './fetch';
import { verify } from './signature';
import { abilitiesOf, metrics, resources, type LevanteResource, type LevanteRight } from './world';

export interface LevanteOptions {
  readonly seed: number;
  readonly clock: StandInClock;
  readonly state: ProviderState;
}

const mostSeries = 500;

/**
 * Levante's interface: signed JSON over HTTP under `/levante/v1`, problems as RFC 9457.
 *
 * @example await app.register(levante, { seed: 1, clock: standInClock(), state: new ProviderState(start) })
 */
export function levante(app: FastifyInstance, { seed, clock, state }: LevanteOptions, done: () => void): void {
  /** The credential behind a request, or null when the reply already says why not. */
  async function admitted(request: FastifyRequest, reply: FastifyReply, right: LevanteRight) {
    const now = itsClock(clock, state);
    void reply.header('date', new Date(now).toUTCString());
    if (refusedByMood(state, reply)) return null;
    const verdict = await verify(
      {
        method: request.method,
        url: `http://${request.headers.host}${request.url}`,
        headers: request.headers as Record<string, string | string[]>,
        body: (request as { rawBody?: Buffer }).rawBody ?? null
      },
      now
    );
    switch (verdict.kind) {
      case 'refused':
        return refuse(reply, 401, 'signature', verdict.reason);
      case 'clock':
        return refuse(reply, 401, 'clock', 'The signature’s time is more than 5 min from this clock.', {
          now: iso(now)
        });
      case 'accepted':
        if (verdict.credential.rights.includes(right) && !(state.faultMode === 'refusing' && right === 'metrics.read'))
          return verdict.credential;
        return refuse(reply, 403, 'right', `The key ${verdict.credential.keyId} lacks the right ${right}.`, { right });
      default:
        throw new TypeError(`admitted: unknown verdict ${JSON.stringify(verdict satisfies never)}`);
    }
  }

  const reports = (resource: LevanteResource): boolean => resource.guest || state.hasGuest(resource.id);

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
    const found = resources.filter(({ account }) => account === credential.account);
    return {
      account: credential.account,
      resources: found.map((one) => shown(one, reports(one), state.start, clock())),
      next: null
    };
  });

  app.get('/levante/v1/metrics', async (request, reply) => {
    const credential = await admitted(request, reply, 'resources.list');
    return credential ? { metrics: metrics.map(({ classes: _classes, ...metric }) => metric), next: null } : reply;
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
      ({ resource }) => !resources.some(({ id, account }) => id === resource && account === credential.account)
    );
    if (foreign)
      return refuse(reply, 404, 'resource', `No resource "${foreign.resource}" in ${credential.account}.`) ?? reply;
    let page;
    try {
      const world = { seed, start: state.start, stresses: state.stresses };
      const token = typeof body.page === 'string' ? body.page : null;
      page = fetchPage(world, wanted, from, to, visibleNow(clock, state), reports, token);
    } catch (error) {
      if (error instanceof RangeError) return refuse(reply, 400, 'page', error.message) ?? reply;
      throw error;
    }
    const text = JSON.stringify(state.faultMode === 'not-a-number' ? withABadValue(page) : page);
    return sendInMood(state, reply, 'application/json', text);
  });

  app.get('/levante/v1/lines/sources', async (request, reply) => {
    const credential = await admitted(request, reply, 'lines.read');
    return credential ? { sources: sourcesOf(credential.account) } : reply;
  });

  app.post('/levante/v1/lines', async (request, reply) => {
    const credential = await admitted(request, reply, 'lines.read');
    if (!credential) return reply;
    const body = request.body as { resource?: unknown; from?: unknown; to?: unknown };
    const [from, to] = [Date.parse(String(body.from)), Date.parse(String(body.to))];
    const source = sourcesOf(credential.account).find(({ resource }) => resource === body.resource);
    if (!source || Number.isNaN(from) || Number.isNaN(to))
      return refuse(reply, 400, 'request', 'Give the resource of a source, from and to.') ?? reply;
    const page = linesPage({ seed, start: state.start }, source.resource, from, to, visibleNow(clock, state));
    void reply.header('levante-complete-until', iso(page.until)).header('levante-more', page.isMore ? 'yes' : 'no');
    return sendInMood(state, reply, 'application/x-ndjson', page.text);
  });

  app.get('/levante/v1/bills', async (request, reply) => {
    const credential = await admitted(request, reply, 'bills.read');
    if (!credential) return reply;
    const { from = '', to = '', page = '0' } = request.query as Record<string, string>;
    const [first, end, skipped] = [dayFrom(from), dayFrom(to), Number(page)];
    if (!(first < end) || end - first > 31 || !Number.isInteger(skipped))
      return refuse(reply, 400, 'request', 'Give from and to, at most 31 days apart.') ?? reply;
    const text = JSON.stringify(billPage(seed, credential.account, first, end, skipped, visibleNow(clock, state)));
    return sendInMood(state, reply, 'application/json', text);
  });

  app.get('/levante/v1/acts', async (request, reply) => {
    const credential = await admitted(request, reply, 'resources.act');
    if (!credential) return reply;
    return { acts: state.acts.slice(-100).map((one) => ({ key: one.key, ...progressOf(one, clock()) })) };
  });

  app.get('/levante/v1/acts/:key', async (request, reply) => {
    const credential = await admitted(request, reply, 'resources.act');
    if (!credential) return reply;
    const { key } = request.params as { key: string };
    const found = state.acts.find((one) => one.key === key);
    if (!found) return refuse(reply, 404, 'act', 'Nothing was done under this key.') ?? reply;
    return { key, ...progressOf(found, clock()) };
  });

  app.get('/levante/v1/resources/:id/acts', async (request, reply) => {
    const credential = await admitted(request, reply, 'resources.act');
    if (!credential) return reply;
    const { id } = request.params as { id: string };
    const resource = resources.find((one) => one.id === id && one.account === credential.account);
    if (!resource) return refuse(reply, 404, 'resource', `No resource "${id}".`) ?? reply;
    const abilities = abilitiesOf(resource, clock());
    return {
      kinds: abilities.kinds,
      stopped: isStopped(state, id),
      size: abilities.sizes ? { now: sizeNow(state, id), choices: abilities.sizes } : null,
      count: abilities.count ? { ...abilities.count, now: countNow(state, id, abilities) } : null
    };
  });

  // The same key does nothing a second time, and answers as the first did.
  app.post('/levante/v1/resources/:id/acts', async (request, reply) => {
    const credential = await admitted(request, reply, 'resources.act');
    if (!credential) return reply;
    const { id } = request.params as { id: string };
    const resource = resources.find((one) => one.id === id && one.account === credential.account);
    if (!resource) return refuse(reply, 404, 'resource', `No resource "${id}".`) ?? reply;
    const { kind, size, count, dry } = (request.body ?? {}) as Record<string, unknown>;
    const key = String(request.headers['idempotency-key'] ?? '').replace(/^"|"$/g, '');
    const order = { resource: id, kind, size, count } as ActOrder;
    const known = dry === true ? undefined : state.acts.find((one) => one.key === key);
    if (known && (known.resource !== id || known.kind !== kind || known.size !== size || known.count !== count))
      return refuse(reply, 422, 'key', 'This key was used for something else.') ?? reply;
    const why = known ? null : refusalOf(state, abilitiesOf(resource, clock()), order);
    if (why !== null) return refuse(reply, 409, 'act', why) ?? reply;
    if (dry === true) return { says: foretold(state, abilitiesOf(resource, clock()), order) };
    if (key === '') return refuse(reply, 400, 'key', 'Give an Idempotency-Key.') ?? reply;
    if (state.actMode === 'lost') return cutOff(reply);
    const done = carryOut(state, abilitiesOf(resource, clock()), order, key, clock());
    if (state.actMode === 'losing') return cutOff(reply);
    return reply.status(202).send({ key, ...progressOf(done, clock()) });
  });

  app.post('/levante/v1/resources/:id/guest', async (request, reply) => {
    const credential = await admitted(request, reply, 'guests.enable');
    if (!credential) return reply;
    const { id } = request.params as { id: string };
    const resource = resources.find((one) => one.id === id && one.account === credential.account);
    if (resource?.type !== 'machine') return refuse(reply, 404, 'resource', `No machine "${id}".`) ?? reply;
    state.enableGuest(id);
    return { id, guest: true };
  });
  done();
}

/** A resource as it is listed: the renamed machine has its former name until it was renamed. */
function shown(
  { role: _role, guest: _guest, ...resource }: LevanteResource,
  guest: boolean,
  start: number,
  now: number
) {
  const renamed = renamedMachine(start);
  const isRenamed = resource.id === renamed.id;
  return {
    ...resource,
    name: isRenamed && now < renamed.at ? renamed.from : resource.name,
    formerNames: isRenamed && now >= renamed.at ? [{ name: renamed.from, until: iso(renamed.at) }] : [],
    guest: resource.type !== 'machine' ? 'none' : guest ? 'on' : 'off'
  };
}

function withABadValue(page: FetchPage): unknown {
  return {
    ...page,
    series: page.series.map((s) => ({
      ...s,
      points: s.points.map((p, i) => (i === 0 ? [p[0], 'n/a', p[2], p[3], p[4]] : p))
    }))
  };
}

const iso = (milliseconds: number): string => new Date(milliseconds).toISOString();
