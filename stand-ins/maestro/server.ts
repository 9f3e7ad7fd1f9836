import { randomUUID } from 'node:crypto';
import { Readable } from 'node:stream';
import type { FastifyInstance, FastifyReply, FastifyRequest } from 'fastify';
import type { StandInClock } from '../clock';
import { carryOut, countNow, foretold, refusalOf } from '../world/acts';
import type { ActOrder } from '../world/act-kinds';
import { cutOff, itsClock, refuse, refusedByMood, sendInMood, visibleNow } from '../world/answers';
import type { ProviderState } from '../world/state';
import { billFile, billFiles } from './bills';
import { eventsOf } from './events';
import { streamOfLines } from './lines';
import { storedPage, pageAt } from './pages';
import { abilitiesOf, clusters, tokens, type Cluster, type MaestroRight } from './world';

export interface MaestroOptions {
  readonly seed: number;
  readonly clock: StandInClock;
  readonly state: ProviderState;
}

const openMetrics = 'application/openmetrics-text; version=1.0.0; charset=utf-8';
/** How far back a cluster keeps its minutes. */
const keptMs = 15 * 86_400_000;
/** Minutes in one answer at most. */
const mostMinutes = 24 * 60;
/** How often the event stream looks for something new, in real time. */
const streamEveryMs = 500;

/**
 * Maestro's interface: a list of clusters, for each an OpenMetrics page, what it kept of earlier minutes, and a stream of events (SSE), under `/maestro`.
 *
 * @example await app.register(maestro, { seed: 1, clock: standInClock(), state: new ProviderState(start) })
 */
export function maestro(app: FastifyInstance, { seed, clock, state }: MaestroOptions, done: () => void): void {
  const world = () => ({ seed, start: state.start, stresses: state.stresses });
  const workloadLevel = (cluster: Cluster) => cluster.workloadMetrics || state.hasGuest(cluster.id);

  function admitted(request: FastifyRequest, reply: FastifyReply, right: MaestroRight): boolean {
    void reply.header('date', new Date(itsClock(clock, state)).toUTCString());
    if (refusedByMood(state, reply)) return false;
    const token = tokens.find((one) => request.headers.authorization === `Bearer ${one.token}`);
    if (!token) refuse(reply, 401, 'token', 'No such token.');
    else if (!token.rights.includes(right) || (state.faultMode === 'refusing' && right === 'metrics.scrape'))
      refuse(reply, 403, 'right', `The token ${token.name} lacks the right ${right}.`, { right });
    else return true;
    return false;
  }

  function clusterOf(request: FastifyRequest, reply: FastifyReply): Cluster | null {
    const { id } = request.params as { id: string };
    return clusters.find((one) => one.id === id) ?? refuse(reply, 404, 'cluster', `No cluster "${id}".`);
  }

  const asMood = (text: string): string =>
    state.faultMode === 'not-a-number' ? text.replace(/^(\w[^#\n]*?) [\d.e+-]+(?=[ \n])/m, '$1 n/a') : text;

  app.get('/maestro/clusters', (request, reply) => {
    if (!admitted(request, reply, 'clusters.list')) return reply;
    return {
      clusters: clusters.map((cluster) => ({
        id: cluster.id,
        title: cluster.title,
        location: cluster.location,
        workloadMetrics: workloadLevel(cluster)
      }))
    };
  });

  // A page says what is true now: only what was kept can be late.
  app.get('/maestro/clusters/:id/metrics', async (request, reply) => {
    if (!admitted(request, reply, 'metrics.scrape')) return reply;
    const cluster = clusterOf(request, reply);
    if (!cluster) return reply;
    return sendInMood(state, reply, openMetrics, asMood(pageAt(world(), cluster, workloadLevel(cluster), clock())));
  });

  app.get('/maestro/clusters/:id/kept', async (request, reply) => {
    if (!admitted(request, reply, 'metrics.scrape')) return reply;
    const cluster = clusterOf(request, reply);
    if (!cluster) return reply;
    const { since = '', until = '' } = request.query as Record<string, string>;
    const from = Math.max(Date.parse(since), clock() - keptMs);
    const to = Math.min(Date.parse(until), visibleNow(clock, state));
    if (Number.isNaN(from) || Number.isNaN(to) || to - from > mostMinutes * 60_000)
      return refuse(reply, 400, 'request', `Give since and until, at most ${mostMinutes} minutes apart.`) ?? reply;
    return sendInMood(
      state,
      reply,
      openMetrics,
      asMood(storedPage(world(), cluster, workloadLevel(cluster), from, to))
    );
  });

  app.get('/maestro/clusters/:id/events', (request, reply) => {
    if (!admitted(request, reply, 'events.follow')) return reply;
    const cluster = clusterOf(request, reply);
    if (!cluster) return reply;
    reply.hijack();
    reply.raw.writeHead(200, { 'content-type': 'text/event-stream', 'cache-control': 'no-store' });
    let last = String(request.headers['last-event-id'] ?? '');
    const send = () => {
      const all = eventsOf(world(), cluster, clock());
      for (const { id, ...event } of all.slice(all.findIndex((one) => one.id === last) + 1)) {
        reply.raw.write(
          `id: ${id}\nevent: happened\ndata: ${JSON.stringify({ ...event, at: new Date(event.at).toISOString() })}\n\n`
        );
        last = id;
      }
    };
    send();
    const timer = setInterval(send, streamEveryMs);
    request.raw.once('close', () => clearInterval(timer));
    return reply;
  });

  app.get('/maestro/clusters/:id/lines', (request, reply) => {
    if (!admitted(request, reply, 'lines.follow')) return reply;
    const cluster = clusterOf(request, reply);
    if (!cluster) return reply;
    const { since = '', until = '' } = request.query as Record<string, string>;
    const from = Date.parse(since);
    if (Number.isNaN(from)) return refuse(reply, 400, 'request', 'Give since.') ?? reply;
    const ending = new AbortController();
    request.raw.once('close', () => ending.abort());
    const to = until === '' ? null : Date.parse(until);
    const visible = () => visibleNow(clock, state);
    const lines = streamOfLines(world, cluster.id, Math.max(from, clock() - keptMs), to, visible, ending.signal);
    return reply.type('text/event-stream').header('cache-control', 'no-store').send(Readable.from(lines));
  });

  app.get('/maestro/bills', (request, reply) =>
    admitted(request, reply, 'bills.fetch') ? reply.send({ files: billFiles(visibleNow(clock, state)) }) : reply
  );

  app.get('/maestro/bills/:name', (request, reply) => {
    if (!admitted(request, reply, 'bills.fetch')) return reply;
    const { name } = request.params as { name: string };
    const file = billFiles(visibleNow(clock, state)).find((one) => one.name === name);
    if (!file) return refuse(reply, 404, 'file', `No file "${name}".`) ?? reply;
    const packed = billFile(seed, file);
    return reply.type('application/gzip').send(state.faultMode === 'malformed' ? packed.subarray(0, 200) : packed);
  });

  app.get('/maestro/clusters/:id/workloads/:namespace/:name', (request, reply) => {
    const workload = changing(request, reply);
    if (!workload) return reply;
    const { count } = abilitiesOf(workload);
    return reply.send({ copies: countNow(state, workload.name, abilitiesOf(workload)), ...count });
  });

  // A request has no key of its own: whoever loses the answer cannot know what became of it.
  app.patch('/maestro/clusters/:id/workloads/:namespace/:name', (request, reply) => {
    const workload = changing(request, reply);
    if (!workload) return reply;
    const { copies, restart, preview } = (request.body ?? {}) as Record<string, unknown>;
    const order = {
      ...{ resource: workload.name, kind: restart === true ? 'restart' : 'count' },
      ...(restart === true ? {} : { count: copies })
    } as ActOrder;
    const abilities = abilitiesOf(workload);
    const why = refusalOf(state, abilities, order);
    if (why !== null) return refuse(reply, 409, 'workload', why) ?? reply;
    if (preview === true) return { effects: foretold(state, abilities, order) };
    if (state.actMode === 'lost') return cutOff(reply);
    if (state.actMode === 'failing') return refuse(reply, 500, 'workload', 'It could not be changed.') ?? reply;
    carryOut(state, abilities, order, randomUUID(), clock());
    return state.actMode === 'losing' ? cutOff(reply) : { changed: true };
  });

  function changing(request: FastifyRequest, reply: FastifyReply) {
    if (!admitted(request, reply, 'workloads.change')) return null;
    const cluster = clusterOf(request, reply);
    if (!cluster) return null;
    const { namespace, name } = request.params as { namespace: string; name: string };
    const found = cluster.workloads.find((one) => one.namespace === namespace && one.name === name);
    return found ?? refuse(reply, 404, 'workload', `No workload "${namespace}/${name}".`);
  }

  app.post('/maestro/clusters/:id/workload-metrics', (request, reply) => {
    if (!admitted(request, reply, 'workload-metrics.enable')) return reply;
    const cluster = clusterOf(request, reply);
    if (!cluster) return reply;
    state.enableGuest(cluster.id);
    return { id: cluster.id, workloadMetrics: true };
  });
  done();
}
