// What runs at Maestro: three clusters of Corallo Lines, their nodes, workloads and the gateways of vessels. All of it is made up.
import type { Abilities } from '../world/acts';
import type { Role } from '../world/load';

export interface Cluster {
  readonly id: string;
  readonly title: string;
  readonly location: string;
  /** Whether workload-level metrics are on its page from the beginning. */
  readonly workloadMetrics: boolean;
  readonly nodes: readonly string[];
  readonly workloads: readonly Workload[];
  readonly gateways: readonly string[];
}

export interface Workload {
  readonly namespace: string;
  readonly name: string;
  readonly team: string;
  readonly role: Role;
  readonly copies: number;
  /** Cores and bytes that are set aside for one copy, and that it may use. */
  readonly coreRequest: number;
  readonly memoryRequest: number;
  readonly coreLimit: number;
  readonly memoryLimit: number;
}

/** What can be done with a workload. */
export const abilitiesOf = ({ copies }: Workload): Abilities => ({
  kinds: ['restart', 'count'],
  count: { usual: copies, least: 0, most: 10 }
});

/** What every node has: cores, and bytes of memory. */
export const nodeCores = 4;
export const nodeMemory = 4 * 1024 ** 3;

const mebibyte = 1024 * 1024;
const workload = (namespace: string, name: string, team: string, role: Role, copies = 3): Workload => ({
  namespace,
  name,
  team,
  role,
  copies,
  coreRequest: 0.25,
  memoryRequest: 256 * mebibyte,
  coreLimit: 1,
  memoryLimit: 512 * mebibyte
});

export const clusters: readonly Cluster[] = [
  {
    id: 'harbour-cluster',
    title: 'harbour-cluster',
    location: 'perla-quay',
    workloadMetrics: true,
    nodes: ['harbour-n1', 'harbour-n2', 'harbour-n3'],
    workloads: [
      workload('booking', 'quote', 'booking', 'web'),
      workload('booking', 'seatmap', 'booking', 'web'),
      workload('booking', 'checkout', 'booking', 'web'),
      workload('public', 'notice', 'quays', 'gate')
    ],
    gateways: []
  },
  {
    id: 'quay-cluster',
    title: 'quay-cluster',
    location: 'sella-quay',
    workloadMetrics: false,
    nodes: ['quay-n1', 'quay-n2'],
    workloads: [workload('quays', 'berth-board', 'quays', 'display', 2)],
    gateways: []
  },
  {
    id: 'vessel-edge',
    title: 'vessel-edge',
    location: 'at sea',
    workloadMetrics: true,
    nodes: ['edge-n1'],
    workloads: [],
    gateways: [
      'gateway-perla-star',
      'gateway-sella-star',
      'gateway-capra',
      'gateway-vela',
      'gateway-dorsale',
      'gateway-marea'
    ]
  }
];

/** A token that Maestro gave out, and what it may do. */
export interface Token {
  readonly name: string;
  readonly token: string;
  readonly rights: readonly MaestroRight[];
}
export type MaestroRight =
  | 'clusters.list'
  | 'metrics.scrape'
  | 'events.follow'
  | 'lines.follow'
  | 'bills.fetch'
  | 'workload-metrics.enable'
  | 'workloads.change';

export const tokens: readonly Token[] = [
  {
    name: 'bussola',
    token: 'demo-only-maestro-3f81b6d2',
    rights: [
      'clusters.list',
      'metrics.scrape',
      'events.follow',
      'lines.follow',
      'bills.fetch',
      'workload-metrics.enable',
      'workloads.change'
    ]
  },
  { name: 'no-scrape', token: 'demo-only-maestro-0000aaaa', rights: ['clusters.list'] }
];
