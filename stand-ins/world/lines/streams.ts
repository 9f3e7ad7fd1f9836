import { killsOnNode, memoryOfCopy, nightlyRuns, noConnections, olderVersions, stalled } from './troubled';
import type { LevanteType } from '../../levante/world';
import {
  access,
  cache,
  checkout,
  database,
  gate,
  gateway,
  group,
  node,
  passedOn,
  position,
  queue,
  quote,
  replication,
  seatmap,
  store,
  tunnels
} from './usual';
import { silentGateway } from '../troubles';
import type { WorldStream } from './line';

/** Lines of a machine, a database or another resource by its name, as Levante and Ostro have them. */
const resource = (
  name: string,
  role: WorldStream['role'],
  rate: number,
  write: WorldStream['write'],
  troubled?: WorldStream['troubled']
): WorldStream => ({ name, role, rate, write, ...(troubled === undefined ? {} : { troubled }) });

/** What writes lines at Levante, where a balancer and a machine group may have one name. */
export interface LevanteStream extends WorldStream {
  readonly type: LevanteType;
}
const levante = (type: LevanteType, ...of: Parameters<typeof resource>): LevanteStream => ({
  ...resource(...of),
  type
});

export const levanteStreams: readonly LevanteStream[] = [
  ...['booking-web-1', 'booking-web-2', 'booking-web-3', 'booking-web-4'].map((name) =>
    levante('machine', name, 'web', 27, access)
  ),
  ...['gate-api-1', 'gate-api-2'].map((name) => levante('machine', name, 'gate', 18, gate)),
  levante('machine-group', 'gate-api', 'gate', 0.5, group),
  levante('balancer', 'freight-desk', 'desk', 5, passedOn),
  levante('queue', 'gate-scan-queue', 'gate', 3, queue),
  levante('queue', 'refund-queue', 'desk', 1, queue),
  levante('cache', 'timetable-cache', 'web', 2, cache),
  levante('cache', 'fare-cache', 'tariff', 1, cache),
  levante('database', 'ticket-orders', 'web', 15, database, noConnections)
];

export const ostroStreams: readonly WorldStream[] = [
  resource('vessel-position', 'vessel', 4, position),
  resource('nightly-tariff-load', 'archive', 0, replication, nightlyRuns),
  resource('dorsale-standby', 'archive', 6, replication, stalled),
  resource('manifest-archive', 'archive', 4, store, olderVersions),
  resource('gateway-perla', 'web', 3, tunnels)
];

/** What writes lines on a cluster: a copy of a workload, a node or a gateway. */
export interface ClusterStream extends WorldStream {
  readonly cluster: string;
  readonly node: string;
  /** Null for a node itself, and for a gateway. */
  readonly workload: { readonly namespace: string; readonly name: string; readonly copy: string } | null;
  readonly gateway: string | null;
}

const harbour = 'harbour-cluster';
const harbourNodes = ['harbour-n1', 'harbour-n2', 'harbour-n3'];
/** As the cluster places them. */
const nodeOf = (workload: string, index: number): string =>
  harbourNodes[(index + workload.length) % harbourNodes.length] ?? '';

const copies = (name: string, rate: number, write: WorldStream['write']): ClusterStream[] =>
  [0, 1, 2].map((index) => {
    const copy = `${name}-${index + 1}`;
    return {
      ...{ name: copy, role: 'web', rate: rate / 3, write, cluster: harbour, node: nodeOf(name, index), gateway: null },
      workload: { namespace: 'booking', name, copy },
      ...(name === 'seatmap' ? { troubled: memoryOfCopy(harbour, copy) } : {})
    };
  });

export const maestroStreams: readonly ClusterStream[] = [
  ...copies('quote', 42, quote),
  ...copies('checkout', 20, checkout),
  ...copies('seatmap', 15, seatmap),
  ...harbourNodes.map((name): ClusterStream => ({
    ...{ name, role: 'display', rate: 8, write: node, cluster: harbour, node: name, workload: null, gateway: null },
    troubled: killsOnNode(
      harbour,
      [0, 1, 2].filter((index) => nodeOf('seatmap', index) === name).map((index) => `seatmap-${index + 1}`)
    )
  })),
  ...['perla-star', 'sella-star', 'capra', 'vela', 'dorsale', 'marea'].map((vessel): ClusterStream => ({
    ...{ name: `gateway-${vessel}`, role: 'vessel', rate: 1, write: gateway, cluster: 'vessel-edge' },
    ...{ node: 'edge-n1', workload: null, gateway: `gateway-${vessel}` },
    ...(`gateway-${vessel}` === silentGateway(0).name ? { silentFrom: ({ start }) => silentGateway(start).from } : {})
  }))
];

/** What writes lines in Corallo Lines: about 100 a minute together, two million in a fortnight. */
export const worldStreams: readonly WorldStream[] = [...levanteStreams, ...ostroStreams, ...maestroStreams];
