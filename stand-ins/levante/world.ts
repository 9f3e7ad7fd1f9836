// What exists at Levante: resources of Corallo Lines and the metrics that each type reports. All of it is made up.
import { machineSizes, type Abilities } from '../world/acts';
import { loadOf, type Role } from '../world/load';

export type LevanteType = 'machine' | 'machine-group' | 'balancer' | 'queue' | 'cache' | 'database';

export interface LevanteResource {
  readonly id: string;
  readonly account: string;
  readonly name: string;
  readonly type: LevanteType;
  readonly region: string;
  readonly tags: Readonly<Record<string, string>>;
  /** Whether guest-level metrics are reported from the beginning; only machines can. */
  readonly guest: boolean;
  /** What it does, which decides the shape of its load. */
  readonly role: Role;
}

export interface LevanteMetric {
  readonly name: string;
  readonly title: string;
  readonly description: string;
  readonly kind: 'gauge' | 'delta';
  readonly unit: string;
  /** `summary` points stand for the twelve readings of a minute, `single` for one. */
  readonly shape: 'summary' | 'single';
  readonly resourceType: LevanteType;
  readonly level: 'host' | 'guest';
  readonly recommended: boolean;
  readonly samplingSeconds: number;
  /** The longest time from the end of a minute to its point being there. */
  readonly delaySeconds: number;
  /** Values of the label `class`, for metrics that have one series for each. */
  readonly classes: readonly string[];
}

type Row = readonly [name: string, title: string, unit: string, description: string, more?: Partial<LevanteMetric>];

const metricsOf = (resourceType: LevanteType, rows: readonly Row[]): LevanteMetric[] =>
  rows.map(([name, title, unit, description, more]) => ({
    name: `${resourceType.replace('-', '.')}.${name}`,
    title,
    unit,
    description,
    kind: 'gauge',
    shape: 'single',
    resourceType,
    level: 'host',
    recommended: true,
    samplingSeconds: 60,
    delaySeconds: 50,
    classes: [],
    ...more
  }));

const summary = { shape: 'summary' } as const;
const delta = { kind: 'delta' } as const;
const guest = { level: 'guest' } as const;
const seldom = { recommended: false } as const;

export const metrics: readonly LevanteMetric[] = [
  ...metricsOf('machine', [
    ['processor.use', 'Processor use', '%', 'Share of the machine’s processor time in use.', summary],
    ['memory.use', 'Memory use', '%', 'Share of the machine’s memory in use.', summary],
    ['network.in', 'Network in', 'By/s', 'Bytes received each second.', summary],
    ['network.out', 'Network out', 'By/s', 'Bytes sent each second.', summary],
    ['disk.write', 'Disk writes', 'By/s', 'Bytes written to the machine’s disks each second.', summary],
    ['filesystem.use', 'File system use', '%', 'Share of the fullest file system in use, as the guest sees it.', guest],
    [
      'load.minute',
      'Load, 1 minute',
      '1',
      'Processes ready to run, averaged over a minute, as the guest sees it.',
      guest
    ]
  ]),
  ...metricsOf('machine-group', [
    ['running', 'Machines running', '{machine}', 'Machines of the group that serve.'],
    ['wanted', 'Machines wanted', '{machine}', 'Machines the group is set to have.']
  ]),
  ...metricsOf('balancer', [
    [
      'responses',
      'Responses by class',
      '{request}',
      'Responses sent, by class of status.',
      { ...delta, classes: ['2xx', '3xx', '4xx', '5xx'] }
    ],
    ['response.time', 'Response time', 'ms', 'Time from a request to its response.', summary],
    ['targets.healthy', 'Healthy targets', '{target}', 'Targets that pass their checks.', seldom]
  ]),
  ...metricsOf('queue', [
    ['depth', 'Messages waiting', '{message}', 'Messages that wait to be taken.'],
    ['oldest.age', 'Age of the oldest message', 's', 'How long the oldest message has waited.'],
    ['sent', 'Messages sent', '{message}', 'Messages put into the queue in the minute.', delta],
    ['taken', 'Messages taken', '{message}', 'Messages taken from the queue in the minute.', delta]
  ]),
  ...metricsOf('cache', [
    ['hit.share', 'Hits', '%', 'Share of look-ups that found something.'],
    ['memory.use', 'Memory use', '%', 'Share of the cache’s memory in use.'],
    ['evicted', 'Evictions', '{item}', 'Items put out for want of room in the minute.', delta],
    ['connections', 'Connections', '{connection}', 'Connections open.', seldom]
  ]),
  ...metricsOf('database', [
    ['connections.use', 'Connections in use', '%', 'Share of the connections allowed that are open.'],
    ['statements', 'Statements', '{statement}/s', 'Statements run each second.'],
    ['read.latency', 'Read latency', 'ms', 'Time a read from disk takes.'],
    ['processor.use', 'Processor use', '%', 'Share of the database’s processor time in use.'],
    ['storage.use', 'Storage used', '%', 'Share of the storage in use.'],
    ['replica.lag', 'Replica lag', 's', 'How far a replica is behind its source.', seldom]
  ])
];

/** The metrics a type of resource reports. */
export const metricsOfType = (type: LevanteType): LevanteMetric[] =>
  metrics.filter(({ resourceType }) => resourceType === type);

const teams: Record<Role, string> = {
  web: 'booking',
  gate: 'gates',
  desk: 'freight',
  display: 'quays',
  tariff: 'tariffs',
  vessel: 'fleet',
  archive: 'records'
};
const letters: Record<LevanteType, string> = {
  machine: 'm',
  'machine-group': 'g',
  balancer: 'b',
  queue: 'q',
  cache: 'c',
  database: 'd'
};

const resource = (
  type: LevanteType,
  account: string,
  region: string,
  role: Role,
  name: string,
  withGuest = false
): LevanteResource => ({
  id: `lev-${letters[type]}-${account === 'corallo-prod' ? 'p' : 's'}-${name}`,
  account,
  name,
  type,
  region,
  tags: { team: teams[role], stage: account === 'corallo-prod' ? 'production' : 'staging' },
  guest: withGuest,
  role
});

export const machines: readonly LevanteResource[] = [
  resource('machine', 'corallo-prod', 'perla-1', 'web', 'booking-web-1', true),
  resource('machine', 'corallo-prod', 'perla-1', 'web', 'booking-web-2', true),
  resource('machine', 'corallo-prod', 'sella-1', 'web', 'booking-web-3'),
  resource('machine', 'corallo-prod', 'sella-1', 'web', 'booking-web-4'),
  resource('machine', 'corallo-prod', 'perla-1', 'gate', 'gate-api-1'),
  resource('machine', 'corallo-prod', 'sella-1', 'gate', 'gate-api-2'),
  resource('machine', 'corallo-prod', 'perla-1', 'desk', 'freight-desk-1'),
  resource('machine', 'corallo-prod', 'perla-1', 'display', 'quay-display-1'),
  resource('machine', 'corallo-prod', 'perla-1', 'tariff', 'tariff-worker-1'),
  resource('machine', 'corallo-prod', 'sella-1', 'tariff', 'tariff-worker-2'),
  resource('machine', 'corallo-staging', 'perla-1', 'web', 'booking-web-s1'),
  resource('machine', 'corallo-staging', 'perla-1', 'gate', 'gate-api-s1'),
  resource('machine', 'corallo-staging', 'perla-1', 'desk', 'freight-desk-s1'),
  resource('machine', 'corallo-staging', 'sella-1', 'tariff', 'tariff-worker-s1')
];

export const resources: readonly LevanteResource[] = [
  ...machines,
  resource('machine-group', 'corallo-prod', 'perla-1', 'web', 'booking-web'),
  resource('machine-group', 'corallo-prod', 'perla-1', 'gate', 'gate-api'),
  resource('balancer', 'corallo-prod', 'perla-1', 'web', 'booking-web'),
  resource('balancer', 'corallo-prod', 'perla-1', 'gate', 'gate-api'),
  resource('balancer', 'corallo-prod', 'sella-1', 'desk', 'freight-desk'),
  ...(['gate-scan-queue', 'boarding-notice-queue', 'refund-queue'] as const).map((name) =>
    resource('queue', 'corallo-prod', 'perla-1', name === 'refund-queue' ? 'desk' : 'gate', name)
  ),
  resource('queue', 'corallo-prod', 'sella-1', 'desk', 'pallet-order-queue'),
  resource('queue', 'corallo-prod', 'sella-1', 'vessel', 'position-queue'),
  resource('cache', 'corallo-prod', 'perla-1', 'web', 'timetable-cache'),
  resource('cache', 'corallo-prod', 'perla-1', 'web', 'seat-cache'),
  resource('cache', 'corallo-prod', 'sella-1', 'tariff', 'fare-cache'),
  resource('database', 'corallo-prod', 'perla-1', 'web', 'ticket-orders'),
  resource('database', 'corallo-prod', 'sella-1', 'web', 'ticket-orders-r1'),
  resource('database', 'corallo-prod', 'sella-1', 'tariff', 'fares-replica'),
  resource('database', 'corallo-prod', 'perla-1', 'gate', 'gate-audit'),
  resource('balancer', 'corallo-staging', 'perla-1', 'web', 'booking-web-s'),
  resource('queue', 'corallo-staging', 'perla-1', 'gate', 'gate-scan-queue-s'),
  resource('cache', 'corallo-staging', 'perla-1', 'web', 'timetable-cache-s'),
  resource('database', 'corallo-staging', 'perla-1', 'web', 'ticket-orders-s')
];

/** What can be done with each type of resource. */
const abilities: Partial<Record<LevanteType, Abilities>> = {
  machine: { kinds: ['restart', 'stop', 'start', 'size'], sizes: machineSizes },
  'machine-group': {
    kinds: ['count'],
    count: { usual: 2, least: 1, most: 12 },
    counted: ['machine.group.wanted', 'machine.group.running']
  },
  cache: { kinds: ['restart'] },
  database: { kinds: ['restart', 'size'], sizes: machineSizes }
};

/** What can be done with a resource; a group that nobody set follows its load. */
export function abilitiesOf({ type, role }: LevanteResource, now: number): Abilities {
  const found = abilities[type] ?? { kinds: [] };
  return found.count ? { ...found, count: { ...found.count, usual: wantedAt(role, now) } } : found;
}

/** How many machines a group wants that nobody set. */
export const wantedAt = (role: Role, moment: number): number => 2 + Math.round(2 * Math.min(1, loadOf(role, moment)));

/** A key pair that Levante gave out, and what it may do. */
export interface Credential {
  readonly keyId: string;
  readonly secret: string;
  readonly account: string;
  readonly rights: readonly LevanteRight[];
}
export type LevanteRight =
  'resources.list' | 'metrics.read' | 'lines.read' | 'bills.read' | 'guests.enable' | 'resources.act';

export const credentials: readonly Credential[] = [
  {
    keyId: 'LEVK-CORALLO-PROD',
    secret: 'demo-only-2f9c61d07be84a35',
    account: 'corallo-prod',
    rights: ['resources.list', 'metrics.read', 'lines.read', 'bills.read', 'guests.enable', 'resources.act']
  },
  {
    keyId: 'LEVK-CORALLO-STAGING',
    secret: 'demo-only-84b1e7509c3d4f62',
    account: 'corallo-staging',
    rights: ['resources.list', 'metrics.read', 'lines.read', 'bills.read', 'resources.act']
  },
  {
    keyId: 'LEVK-CORALLO-LISTONLY',
    secret: 'demo-only-c05d3a9912f74e08',
    account: 'corallo-prod',
    rights: ['resources.list']
  }
];
