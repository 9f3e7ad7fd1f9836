import type { FastifyInstance, FastifyReply, FastifyRequest } from 'fastify';
import type { StandInClock } from '../clock';
import { dayFrom } from '../world/bills/charge';
import { carryOut, foretold, isStopped, progressOf, refusalOf, sizeNow } from '../world/acts';
import type { ActOrder } from '../world/act-kinds';
import { cutOff, itsClock, refuse, refusedByMood, sendInMood, visibleNow } from '../world/answers';
import type { ProviderState } from '../world/state';
import { chargesOn } from './bills';
import { events } from './events';
import { exportId, exportOf, fileOf, writesLines } from './exports';
import { latenessOf, valueOf, type OstroWorld } from './numbers';
import { clientOf, issueToken, tokenSeconds } from './tokens';
import {
  abilitiesOf,
  clients,
  measures,
  subscriptions,
  tenant,
  things,
  type OstroMeasure,
  type OstroRight,
  type OstroThing
} from './world';

export interface OstroOptions {
  readonly seed: number;
  readonly clock: StandInClock;
  readonly state: ProviderState;
}

/** How far back measurements are kept. */
const keptMs = 30 * 86_400_000;
/** Values in one answer at most. */
const mostValues = 50_000;

/**
 * Ostro's interface: a token for client credentials (RFC 6749, section 4.4), then one request for each thing's measurements, under `/ostro/v2`.
 *
 * @example await app.register(ostro, { seed: 1, clock: standInClock(), state: new ProviderState(start) })
 */
export function ostro(app: FastifyInstance, { seed, clock, state }: OstroOptions, done: () => void): void {
  const now = () => itsClock(clock, state);
  const making = new Set<string>();
  const reports = (thing: OstroThing) => thing.guest || state.hasGuest(thing.uri);

  function admitted(request: FastifyRequest, reply: FastifyReply, right: OstroRight) {
    void reply.header('date', new Date(now()).toUTCString());
    if (refusedByMood(state, reply)) return null;
    const client = clientOf(request.headers.authorization, now());
    if (!client) return refuse(reply, 401, 'token', 'The token is missing, not from here, or has run out.');
    if (client.rights.includes(right) && !(state.faultMode === 'refusing' && right === 'measurements.read'))
      return client;
    return refuse(reply, 403, 'right', `The client ${client.id} lacks the right ${right}.`, { right });
  }

  app.post('/ostro/token', (request, reply) => {
    void reply.header('date', new Date(now()).toUTCString());
    if (refusedByMood(state, reply)) return reply;
    const { grant_type: grant, client_id: id, client_secret: secret } = (request.body ?? {}) as Record<string, string>;
    const client = clients.find((one) => one.id === id && one.secret === secret);
    if (grant !== 'client_credentials') return reply.status(400).send({ error: 'unsupported_grant_type' });
    if (!client) return reply.status(401).send({ error: 'invalid_client' });
    return { access_token: issueToken(client, now()), token_type: 'Bearer', expires_in: tokenSeconds };
  });

  app.get('/ostro/v2/tenant', (request, reply) =>
    admitted(request, reply, 'inventory.read') ? reply.send({ tenant, subscriptions }) : reply
  );

  app.get('/ostro/v2/subscriptions/:subscription/things', (request, reply) => {
    if (!admitted(request, reply, 'inventory.read')) return reply;
    const { subscription } = request.params as { subscription: string };
    const { after = '' } = request.query as { after?: string };
    const all = things.filter((thing) => thing.subscription === subscription);
    const from = after === '' ? 0 : all.findIndex(({ uri }) => uri === after) + 1;
    const page = all.slice(from, from + 25);
    return {
      things: page.map((thing) => ({
        uri: thing.uri,
        kind: thing.kind,
        title: thing.title,
        location: thing.location,
        labels: thing.labels,
        guest: thing.kind !== 'machine' ? 'none' : reports(thing) ? 'on' : 'off'
      })),
      after: from + 25 < all.length ? page.at(-1)?.uri : null
    };
  });

  app.get('/ostro/v2/measures', (request, reply) =>
    admitted(request, reply, 'inventory.read')
      ? reply.send({
          measures: measures.map(({ decimals: _decimals, dimension, ...measure }) => ({
            ...measure,
            dimension: dimension?.name ?? null
          }))
        })
      : reply
  );

  app.get('/ostro/v2/measurements/*', async (request, reply) => {
    const client = admitted(request, reply, 'measurements.read');
    if (!client) return reply;
    const uri = (request.params as { '*': string })['*'];
    const thing = things.find((one) => one.uri === uri);
    if (!thing) return refuse(reply, 404, 'thing', `No thing "${uri}".`) ?? reply;
    if (client.denied.includes(thing.kind))
      return (
        refuse(reply, 403, 'right', `The client ${client.id} may not read measurements of ${thing.kind}s.`, {
          right: `measurements.read on ${thing.subscription}/${thing.kind}`
        }) ?? reply
      );
    const { names = '', since = '', until = '' } = request.query as Record<string, string>;
    const [from, to] = [Date.parse(since), Date.parse(until)];
    const requested = names
      .split(',')
      .map((name) => measures.find((one) => one.kind === thing.kind && one.measure === name))
      .filter((one): one is OstroMeasure => one !== undefined && (one.level === 'host' || reports(thing)));
    if (Number.isNaN(from) || Number.isNaN(to) || !(from < to))
      return refuse(reply, 400, 'request', 'Give names, since and until.') ?? reply;
    const world: OstroWorld = { seed, start: state.start, stresses: state.stresses };
    const visible = visibleNow(clock, state);
    const answer = requested.map((measure) =>
      seriesOf(world, thing, measure, Math.max(from, clock() - keptMs), to, visible)
    );
    if (
      answer.reduce((sum, { series }) => sum + series.reduce((n, { values }) => n + values.length, 0), 0) > mostValues
    )
      return refuse(reply, 400, 'request', `More than ${mostValues} values: ask for a shorter span.`) ?? reply;
    if (state.faultMode === 'not-a-number')
      for (const { series } of answer)
        for (const one of series) if (one.values.length > 0) (one.values as unknown[])[0] = 'n/a';
    return sendInMood(state, reply, 'application/json', JSON.stringify({ uri, measurements: answer }));
  });

  app.get('/ostro/v2/events', (request, reply) => {
    if (!admitted(request, reply, 'events.read')) return reply;
    const { after = '' } = request.query as { after?: string };
    const all = events(state.start, clock());
    return { events: all.slice(all.findIndex(({ id }) => id === after) + 1) };
  });

  app.get('/ostro/v2/operations', (request, reply) => {
    if (!admitted(request, reply, 'operations.run')) return reply;
    const { uri = '' } = request.query as { uri?: string };
    const thing = things.find((one) => one.uri === uri);
    if (uri !== '' && !thing) return refuse(reply, 404, 'thing', `No thing "${uri}".`) ?? reply;
    const abilities = thing ? abilitiesOf(thing) : { kinds: [] };
    return reply.send({
      possible: abilities.kinds,
      stopped: isStopped(state, uri),
      sizes: abilities.sizes ?? [],
      size: abilities.sizes ? sizeNow(state, uri) : null
    });
  });

  // Whoever runs one names it: put a second time, it is the same one.
  app.put('/ostro/v2/operations/:name', (request, reply) => {
    if (!admitted(request, reply, 'operations.run')) return reply;
    const { name } = request.params as { name: string };
    const { uri, run, size, preview } = (request.body ?? {}) as Record<string, unknown>;
    const thing = things.find((one) => one.uri === uri);
    if (!thing) return refuse(reply, 404, 'thing', `No thing "${String(uri)}".`) ?? reply;
    const order = { resource: thing.uri, kind: run, size } as ActOrder;
    const known = preview === true ? undefined : state.acts.find(({ key }) => key === name);
    const why = known ? null : refusalOf(state, abilitiesOf(thing), order);
    if (why !== null) return refuse(reply, 409, 'operation', why) ?? reply;
    if (preview === true) return { effects: foretold(state, abilitiesOf(thing), order) };
    if (state.actMode === 'lost') return cutOff(reply);
    const done = carryOut(state, abilitiesOf(thing), order, name, clock());
    if (state.actMode === 'losing') return cutOff(reply);
    return reply.status(known ? 200 : 201).send({ name, ...progressOf(done, clock()) });
  });

  app.get('/ostro/v2/operations/:name', (request, reply) => {
    if (!admitted(request, reply, 'operations.run')) return reply;
    const { name } = request.params as { name: string };
    const found = state.acts.find(({ key }) => key === name);
    return found
      ? reply.send({ name, ...progressOf(found, clock()) })
      : (refuse(reply, 404, 'operation', `No operation "${name}".`) ?? reply);
  });

  app.get('/ostro/v2/exports', (request, reply) =>
    admitted(request, reply, 'exports.make')
      ? reply.send({ things: things.filter(writesLines).map(({ uri }) => uri) })
      : reply
  );

  app.post('/ostro/v2/exports', (request, reply) => {
    if (!admitted(request, reply, 'exports.make')) return reply;
    const { uri, since, until } = (request.body ?? {}) as Record<string, unknown>;
    const thing = things.find((one) => one.uri === uri && writesLines(one));
    const [from, to] = [Date.parse(String(since)), Date.parse(String(until))];
    if (!thing || Number.isNaN(from) || Number.isNaN(to))
      return refuse(reply, 400, 'request', 'Give uri, since and until.') ?? reply;
    const id = exportId({ uri: thing.uri, since: from, until: to });
    return reply.status(202).send({ id });
  });

  app.get('/ostro/v2/exports/file', async (request, reply) => {
    if (!admitted(request, reply, 'exports.make')) return reply;
    const { id = '' } = request.query as { id?: string };
    const ordered = exportOf(id);
    if (!ordered) return refuse(reply, 404, 'export', 'No such export.') ?? reply;
    // It is being made when it is asked for the first time.
    if (!making.delete(id)) {
      making.add(id);
      return reply.status(202).send({});
    }
    const { file, until } = fileOf({ seed, start: state.start }, ordered, visibleNow(clock, state));
    return reply.type('application/gzip').header('ostro-complete-until', new Date(until).toISOString()).send(file);
  });

  app.get('/ostro/v2/charges', async (request, reply) => {
    if (!admitted(request, reply, 'charges.read')) return reply;
    const day = dayFrom((request.query as { day?: string }).day ?? '');
    if (Number.isNaN(day)) return refuse(reply, 400, 'request', 'Give a day.') ?? reply;
    const found = chargesOn(seed, state.start, day, visibleNow(clock, state));
    return sendInMood(state, reply, 'application/json', JSON.stringify(found));
  });

  app.post('/ostro/v2/guest/*', (request, reply) => {
    if (!admitted(request, reply, 'guests.enable')) return reply;
    const uri = (request.params as { '*': string })['*'];
    if (!things.some((thing) => thing.uri === uri && thing.kind === 'machine'))
      return refuse(reply, 404, 'thing', `No machine "${uri}".`) ?? reply;
    state.enableGuest(uri);
    return { uri, guest: 'on' };
  });
  done();
}

/** The series of one measure over a span, as columns of seconds since the epoch and values. */
function seriesOf(
  world: OstroWorld,
  thing: OstroThing,
  measure: OstroMeasure,
  from: number,
  to: number,
  visible: number
) {
  const every = measure.everySeconds * 1000;
  const end = Math.min(to, visible - latenessOf(world.seed, thing, measure) + 1);
  const series = (measure.dimension?.values ?? ['']).map((dimension) => {
    const times: number[] = [];
    const values: number[] = [];
    for (let at = Math.ceil(from / every) * every; at < end; at += every) {
      const value = valueOf(world, thing, measure, dimension, at);
      if (value === null) continue;
      times.push(at / 1000);
      values.push(value);
    }
    return { dimensions: measure.dimension ? { [measure.dimension.name]: dimension } : {}, times, values };
  });
  return { measure: measure.measure, series };
}
