// What exists at Ostro: one tenant with two subscriptions of Corallo Lines, and what each kind of thing measures. All of it is made up.
import { machineSizes, type Abilities } from '../world/acts';
import type { Role } from '../world/load';

export type OstroKind = 'database' | 'object-store' | 'function' | 'machine' | 'pipeline' | 'replication' | 'gateway';

export interface OstroThing {
  /** Path below the tenant: subscription, kind, name. */
  readonly uri: string;
  readonly subscription: string;
  readonly kind: OstroKind;
  readonly title: string;
  readonly location: string;
  readonly labels: Readonly<Record<string, string>>;
  readonly role: Role;
  /** Whether guest-level measures are reported from the beginning. */
  readonly guest: boolean;
}

export interface OstroMeasure {
  readonly kind: OstroKind;
  readonly measure: string;
  readonly title: string;
  readonly about: string;
  readonly unit: string;
  readonly behaviour: 'gauge' | 'delta' | 'cumulative';
  readonly everySeconds: number;
  readonly lateSeconds: number;
  readonly recommended: boolean;
  readonly level: 'host' | 'guest';
  /** Decimals that are reported. */
  readonly decimals: number;
  /** Values of the one dimension, for measures that have several series. */
  readonly dimension?: { readonly name: string; readonly values: readonly string[] };
}

const measuresOf = (
  kind: OstroKind,
  rows: readonly (readonly [string, string, string, string, number, Partial<OstroMeasure>?])[]
): OstroMeasure[] =>
  rows.map(([measure, title, unit, about, decimals, more]) => ({
    kind,
    measure,
    title,
    about,
    unit,
    decimals,
    behaviour: 'gauge',
    everySeconds: 60,
    lateSeconds: 70,
    recommended: true,
    level: 'host',
    ...more
  }));

const delta = { behaviour: 'delta' } as const;
const total = { behaviour: 'cumulative' } as const;
const hoursLate = { everySeconds: 3600, lateSeconds: 21_600 } as const;
const five = { everySeconds: 300, lateSeconds: 120 } as const;

export const measures: readonly OstroMeasure[] = [
  ...measuresOf('database', [
    ['connections', 'Connections', '{connection}', 'Connections open.', 0],
    ['statements', 'Statements', '{statement}/s', 'Statements run each second.', 1],
    ['read-latency', 'Read latency', 'ms', 'Time a read takes.', 2],
    ['processor', 'Processor use', '%', 'Share of processor time in use.', 1],
    ['storage', 'Storage used', '%', 'Share of the storage in use.', 2],
    ['rows-read', 'Rows read', '{row}', 'Rows read since the database started.', 0, { ...total, recommended: false }]
  ]),
  ...measuresOf('object-store', [
    ['size', 'Stored bytes', 'By', 'Bytes stored; counted once an hour, hours later.', 0, hoursLate],
    ['objects', 'Stored objects', '{object}', 'Objects stored; counted once an hour, hours later.', 0, hoursLate],
    ['requests', 'Requests', '{request}', 'Requests since the store was made.', 0, total],
    ['cost', 'Cost of a day', '{euro}/d', 'What the store costs in a day at the present size.', 2, hoursLate]
  ]),
  ...measuresOf('function', [
    ['calls', 'Calls', '{call}', 'Calls in the minute.', 0, delta],
    ['failures', 'Failed calls', '{call}', 'Calls that failed in the minute.', 0, delta],
    ['duration', 'Duration', 'ms', 'How long a call takes on average.', 1],
    ['at-once', 'Calls at once', '{call}', 'Most calls running at the same moment.', 0, { recommended: false }]
  ]),
  ...measuresOf('machine', [
    ['processor', 'Processor use', '%', 'Share of the machine’s processor time in use.', 1],
    ['network-in', 'Network in', 'By/s', 'Bytes received each second.', 0],
    ['network-out', 'Network out', 'By/s', 'Bytes sent each second.', 0],
    ['memory', 'Memory use', '%', 'Share of the memory in use, as the guest sees it.', 1, { level: 'guest' }],
    [
      'filesystem',
      'File system use',
      '%',
      'Share of the fullest file system in use, as the guest sees it.',
      1,
      { level: 'guest' }
    ]
  ]),
  ...measuresOf('pipeline', [
    [
      'runs',
      'Runs ended',
      '{run}',
      'Runs that ended, by outcome.',
      0,
      { ...delta, ...five, dimension: { name: 'outcome', values: ['succeeded', 'failed'] } }
    ],
    [
      'errors',
      'Errors',
      '{error}',
      'Errors met while running, by what they were.',
      0,
      { ...delta, ...five, dimension: { name: 'error', values: ['source timed out', 'bad record', 'no room'] } }
    ],
    ['rows', 'Rows moved', '{row}', 'Rows moved in five minutes.', 0, { ...delta, ...five }],
    ['run-time', 'Run time', 's', 'How long the run under way has been running.', 0, five]
  ]),
  ...measuresOf('replication', [
    ['lag', 'Lag', 's', 'How far the copy is behind its source.', 1],
    ['backlog', 'Backlog', 'By', 'Bytes waiting to be copied.', 0],
    ['network-in', 'Network in', 'By/s', 'Bytes the copy receives each second.', 0],
    ['processor', 'Processor use', '%', 'Share of the copying machine’s processor time in use.', 1],
    ['disk-free', 'Disk headroom', '%', 'Share of the copy’s disk that is free.', 2]
  ]),
  ...measuresOf('gateway', [
    ['bytes-out', 'Bytes out', 'By/s', 'Bytes sent each second.', 0],
    ['tunnels', 'Tunnels up', '{tunnel}', 'Tunnels that are up.', 0],
    ['dropped', 'Packets dropped', '{packet}', 'Packets dropped in the minute.', 0, delta]
  ])
];

export const measuresOfKind = (kind: OstroKind): OstroMeasure[] => measures.filter((measure) => measure.kind === kind);

export const tenant = 'corallo-lines';
export const subscriptions = [
  { id: 'sub-sea', name: 'perla-sea' },
  { id: 'sub-shore', name: 'perla-shore' }
] as const;

const thing = (
  subscription: string,
  kind: OstroKind,
  title: string,
  role: Role,
  labels: Record<string, string> = {},
  guest = false
): OstroThing => ({
  uri: `${subscription}/${kind}/${title}`,
  subscription,
  kind,
  title,
  location: subscription === 'sub-sea' ? 'perla-west' : 'perla-east',
  labels: { area: role, ...labels },
  role,
  guest
});

const several = <T>(names: string, make: (name: string, index: number) => T): T[] => names.split(' ').map(make);

export const things: readonly OstroThing[] = [
  thing('sub-shore', 'database', 'freight-ledger', 'desk'),
  thing('sub-shore', 'database', 'crew-roster', 'desk'),
  ...several(
    'manifest-archive ticket-images position-history fare-tables invoice-papers quay-cameras crew-documents',
    (name) => thing('sub-shore', 'object-store', name, 'archive')
  ),
  ...several(
    'vessel-position boarding-check fare-quote refund-intake seat-release manifest-sign notice-fan-out storm-watch berth-plan',
    (name) =>
      thing('sub-sea', 'function', name, name === 'fare-quote' ? 'web' : name.startsWith('b') ? 'gate' : 'vessel')
  ),
  ...several(
    'chart-1 chart-2 chart-3 tide-1 tide-2 berth-1 berth-2 lab-1 lab-2 lab-3 ledger-batch-1 ledger-batch-2',
    (name, i) =>
      thing(
        'sub-shore',
        'machine',
        name,
        i < 5 ? 'vessel' : i < 7 ? 'gate' : i < 10 ? 'desk' : 'tariff',
        name.startsWith('lab') ? { stage: 'lab' } : { stage: 'production' },
        i < 4
      )
  ),
  ...several('nightly-tariff-load crew-roster-sync invoice-export position-compaction', (name) =>
    thing('sub-shore', 'pipeline', name, 'tariff')
  ),
  thing('sub-sea', 'replication', 'dorsale-standby', 'archive'),
  thing('sub-sea', 'replication', 'vela-standby', 'archive'),
  ...several('gateway-perla gateway-sella gateway-vela', (name) => thing('sub-shore', 'gateway', name, 'web'))
];

/** What can be done with each kind of thing. */
const abilities: Partial<Record<OstroKind, Abilities>> = {
  machine: { kinds: ['restart', 'stop', 'start', 'size'], sizes: machineSizes },
  database: { kinds: ['restart'] },
  replication: { kinds: ['restart'] },
  gateway: { kinds: ['restart'] }
};

export const abilitiesOf = ({ kind }: OstroThing): Abilities => abilities[kind] ?? { kinds: [] };

/** A client that may request tokens, and what it may do: rights on every subscription, less what is denied by kind. */
export interface Client {
  readonly id: string;
  readonly secret: string;
  readonly rights: readonly OstroRight[];
  readonly denied: readonly OstroKind[];
}
export type OstroRight =
  | 'inventory.read'
  | 'measurements.read'
  | 'events.read'
  | 'exports.make'
  | 'charges.read'
  | 'guests.enable'
  | 'operations.run';

export const clients: readonly Client[] = [
  {
    id: 'bussola-reader',
    secret: 'demo-only-ostro-71c0e2',
    rights: ['inventory.read', 'measurements.read', 'events.read', 'exports.make', 'charges.read'],
    denied: ['gateway']
  },
  {
    id: 'bussola-keeper',
    secret: 'demo-only-ostro-9d55aa',
    rights: [
      'inventory.read',
      'measurements.read',
      'events.read',
      'exports.make',
      'charges.read',
      'guests.enable',
      'operations.run'
    ],
    denied: []
  }
];
