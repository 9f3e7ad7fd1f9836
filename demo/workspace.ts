// What the people of Corallo Lines have made over months: boards, saved signals, groups, a derived metric, marks and keys; alarms are in alarms.ts.
import {
  pictured,
  withPanel,
  type Board,
  type CellLimit,
  type PanelContent,
  type SignalPicture
} from '../src/lib/core/board';
import { dateOf, dayAt, type DatedRate } from '../src/lib/core/cost';
import type { GroupDefinition } from '../src/lib/core/group';
import type { NewMark } from '../src/lib/core/mark';
import type { LabelCondition, Signal } from '../src/lib/core/signal';
import { failedShare, of, tickets, type Statistic } from './signals';
import { eventRuleSchema } from '../src/lib/core/events';
import { before, day, hour, minute, textFromInstant, times, type Instant } from '../src/lib/core/time';

interface Shown {
  readonly title: string;
  readonly signal: Signal;
  readonly picture?: SignalPicture;
  readonly about?: string;
  readonly limits?: readonly CellLimit[];
  /** Number tiles, one for each series. */
  readonly each?: boolean;
}

/** One row combined over labels. */
const combined = (metric: string, statistic: Statistic, by: readonly string[], ...where: LabelCondition[]): Signal => ({
  version: 2,
  step: 'PT5M',
  rows: [{ name: 'a', metric, where, statistic, combine: { statistic: 'sum', by: [...by] } }]
});

function board(
  title: string,
  about: string,
  service: string | undefined,
  panels: readonly (Shown | PanelContent)[]
): Board {
  const made = panels.reduce<Board['panels']>(
    (all, panel, index) => withPanel(all, 'signal' in panel ? contentOf(panel) : panel, `p${index + 1}`) ?? all,
    []
  );
  return { title, about, ...(service && { service }), pickers: [], sections: [], panels: made };
}

function contentOf({ title, signal, picture = 'lines', about, limits, each }: Shown): PanelContent {
  return {
    ...pictured(title, signal, picture),
    ...(about && { about }),
    ...(limits && { limits: [...limits] }),
    ...(each && { each })
  } as PanelContent;
}

/** Boards, each with the name of its owner; those with a star are among Nerea's favourites. */
export const boards: readonly { owner: string; star?: boolean; folder?: string; board: Board }[] = [
  {
    owner: 'nerea',
    star: true,
    folder: 'Ticket sales',
    board: board(
      'Ticket sales, tonight',
      'Everything a ticket passes through, from the gate to the database.',
      undefined,
      [
        {
          title: 'Requests at the balancers',
          signal: combined('balancer.responses', 'sum', ['resource']),
          picture: 'stacked'
        },
        { title: 'Failed responses', signal: failedShare },
        { title: 'Connections of the ticket databases', signal: of('database.connections.use', 'max', tickets) },
        { title: 'Waiting in queues', signal: of('queue.depth', 'max') },
        {
          title: 'Processor of booking-web',
          signal: of('machine.processor.use', 'avg', { label: 'resource', matches: '^booking-web' })
        }
      ]
    )
  },
  {
    owner: 'nerea',
    star: true,
    folder: 'Ticket sales',
    board: board(
      'Ticket databases',
      'Connections, statements and storage of the databases behind ticket sales.',
      'databases',
      [
        { title: 'Connections in use', signal: of('database.connections.use', 'max', tickets) },
        { title: 'Statements a second', signal: of('database.statements', 'rate', tickets) },
        { title: 'Read latency', signal: of('database.read.latency', 'avg', tickets) },
        { title: 'Storage in use', signal: of('database.storage.use', 'last') }
      ]
    )
  },
  {
    owner: 'ivo',
    star: true,
    folder: 'On call',
    board: board('Night watch', 'The few numbers that matter at 03:00.', undefined, [
      {
        title: 'Busiest machines',
        about: 'The five that had the highest peak in the range. Above 85 % for long: add a machine to the group.',
        signal: { ...of('machine.processor.use'), limit: { keep: 5, by: 'max', order: 'highest', rest: 'leave out' } },
        picture: 'ranks',
        limits: [
          { value: 85, severity: 'major' },
          { value: 60, severity: 'warning' }
        ]
      },
      {
        title: 'Fullest file systems',
        about: 'Above 68 % somebody is mailed. Old logs under /var/log/gate can go.',
        signal: {
          ...of('machine.filesystem.use', 'last'),
          limit: { keep: 6, by: 'last', order: 'highest', rest: 'leave out' }
        },
        picture: 'number',
        each: true,
        limits: [
          { value: 68, severity: 'minor' },
          { value: 90, severity: 'critical' }
        ]
      },
      { title: 'Resources of the last 48 hours', picture: 'resources', hours: 48, service: 'machines' },
      { title: 'Replication backlog', signal: of('replication.backlog', 'last') },
      { title: 'Pipeline errors', signal: of('pipeline.errors', 'sum'), picture: 'bars' }
    ])
  },
  {
    owner: 'ivo',
    board: board('Gates and queues', 'What the gates send, and how fast it is taken.', 'queues', [
      { title: 'Sent', signal: combined('queue.sent', 'sum', ['resource']), picture: 'stacked' },
      { title: 'Taken', signal: combined('queue.taken', 'sum', ['resource']), picture: 'stacked' },
      { title: 'Oldest message', signal: of('queue.oldest.age', 'max') }
    ])
  },
  {
    owner: 'ivo',
    board: board('Functions', 'Calls, failures and duration.', 'functions', [
      { title: 'Calls', signal: combined('function.calls', 'sum', ['resource']), picture: 'stacked' },
      { title: 'Failures', signal: combined('function.failures', 'sum', ['resource']), picture: 'bars' },
      { title: 'Duration', signal: of('function.duration') }
    ])
  },
  {
    owner: 'kaja',
    folder: 'On call',
    board: board('Dorsale stand-by', 'Whether we could move to Dorsale now.', 'replication', [
      { title: 'Backlog', signal: of('replication.backlog', 'last') },
      { title: 'Lag', signal: of('replication.lag', 'last') }
    ])
  },
  {
    owner: 'kaja',
    board: board('Nightly loads', 'The pipelines that must be through before the first ferry.', 'pipelines', [
      { title: 'Runs', signal: of('pipeline.runs', 'sum'), picture: 'bars' },
      { title: 'Errors', signal: of('pipeline.errors', 'sum'), picture: 'bars' },
      { title: 'Rows written', signal: of('pipeline.rows', 'sum'), picture: 'bars' }
    ])
  },
  {
    owner: 'kaja',
    board: board('Vessels', 'The gateways of the fleet.', 'gateways', [
      { title: 'Tunnels', signal: of('gateway.tunnels', 'last') },
      { title: 'Dropped packets', signal: of('gateway.dropped', 'sum'), picture: 'bars' }
    ])
  }
];

/** Signals saved under a name. */
export const signals: readonly { name: string; signal: Signal; by: string }[] = [
  { name: 'Share of failed responses', signal: failedShare, by: 'Nerea Olmo' },
  { name: 'Messages waiting, by queue', signal: combined('queue.depth', 'max', ['resource']), by: 'Ivo Brandt' },
  {
    name: 'Processor by region',
    signal: {
      version: 2,
      step: 'PT5M',
      rows: [
        {
          name: 'a',
          metric: 'machine.processor.use',
          where: [],
          statistic: 'avg',
          combine: { statistic: 'avg', by: ['region'] }
        }
      ]
    },
    by: 'Nerea Olmo'
  }
];

export const groups: readonly { definition: GroupDefinition; by: string }[] = [
  {
    definition: { name: 'booking', rule: { match: 'any', conditions: [{ label: 'resource', matches: '^booking-' }] } },
    by: 'Nerea Olmo'
  },
  {
    definition: {
      name: 'booking-machines',
      rule: {
        match: 'all',
        conditions: [
          { label: 'resource', matches: '^booking-web-\\d' },
          { label: 'type', is: ['machine'] }
        ]
      }
    },
    by: 'Nerea Olmo'
  },
  {
    definition: { name: 'ticket-databases', rule: { match: 'any', conditions: [tickets] } },
    by: 'Ivo Brandt'
  }
];

export const derived = {
  name: 'responses failed share',
  signal: failedShare,
  description: 'Share of failed responses of each balancer.',
  unit: '%',
  delayMs: 120_000
};

/** Deployments and maintenance of the last fortnight, by hours before now. */
export const marks = (now: Instant): readonly { mark: NewMark; by: string; source: 'person' | 'program' }[] => {
  const at = (hours: number) => textFromInstant(before(now, times(hours, hour)));
  return [
    {
      mark: { text: 'checkout 7.1 deployed', from: at(290), service: 'clusters' },
      by: 'deploy-robot',
      source: 'program'
    },
    {
      mark: { text: 'fares 4.17 deployed', from: at(214), service: 'databases' },
      by: 'deploy-robot',
      source: 'program'
    },
    {
      mark: { text: 'Maintenance of the Sella network', from: at(160), to: at(157) },
      by: 'Kaja Tamm',
      source: 'person'
    },
    {
      mark: { text: 'Versions kept on manifest-archive', from: at(121), service: 'objects' },
      by: 'Ivo Brandt',
      source: 'person'
    },
    {
      mark: { text: 'booking-web 12.3 deployed', from: at(98), service: 'machines' },
      by: 'deploy-robot',
      source: 'program'
    },
    {
      mark: { text: 'fares 4.18 deployed', from: at(45), service: 'databases' },
      by: 'deploy-robot',
      source: 'program'
    },
    { mark: { text: 'Storm off Capra: ferries stopped', from: at(30), to: at(24) }, by: 'Oda Lind', source: 'person' },
    { mark: { text: 'seatmap 2.9 deployed', from: at(6), service: 'clusters' }, by: 'deploy-robot', source: 'program' }
  ];
};

/** What a Swiss franc is in euro: the bills of one provider are in these. */
export const rates = (now: Instant): readonly DatedRate[] =>
  [
    { days: 420, rate: 1.03 },
    { days: 75, rate: 1.04 },
    { days: 12, rate: 1.06 }
  ].map(({ days, rate }) => ({ currency: 'CHF', from: dateOf(dayAt(before(now, times(days, day)))), rate }));

/** Keys of programs. */
export const keys = [
  { name: 'deploy-robot', scopes: ['marks'], by: 'Kaja Tamm' },
  { name: 'release-robot', scopes: ['events'], by: 'Kaja Tamm' },
  { name: 'gate-sensors', scopes: ['metrics'], by: 'Ivo Brandt' },
  { name: 'weekly-report', scopes: ['read'], by: 'Nerea Olmo' }
] as const;

/** Rules by which events raise incidents. */
export const eventRules = [
  {
    name: 'Copy stalled at its provider',
    when: { types: ['stalled'], resources: ['dorsale-*'] },
    severity: 'critical',
    clears: { by: 'event', when: { types: ['resumed'] } },
    labels: { team: 'data' },
    about:
      'The provider says that nothing is copied any more. The standby **cannot take over** without loss until it is set going again.'
  },
  {
    name: 'Nightly run failed',
    when: { types: ['run failed'] },
    severity: 'major',
    clears: { by: 'time', after: 'PT12H' },
    labels: { team: 'data' }
  },
  {
    name: 'Release failed',
    when: { types: ['test.corallo.release.failed'] },
    severity: 'minor',
    clears: { by: 'event', when: { types: ['test.corallo.release.finished'] } }
  }
].map((rule) => eventRuleSchema.parse(rule));

/** Releases as the robot says them, by hours before now. */
export const releases = (now: Instant) =>
  (
    [
      [290, 'checkout', '7.1', 'finished'],
      [214, 'fares', '4.17', 'finished'],
      [98, 'booking-web', '12.3', 'finished'],
      [45, 'fares', '4.18', 'finished'],
      [6.4, 'seatmap', '2.9', 'failed'],
      [6, 'seatmap', '2.9', 'finished']
    ] as const
  ).map(([hours, program, version, how]) => ({
    id: `${program}-${version}-${how}`,
    source: '/release-robot',
    type: `test.corallo.release.${how}`,
    at: before(now, times(hours * 60, minute)),
    subject: program,
    text:
      how === 'failed'
        ? `${program} ${version} was not released: two of eight copies did not answer their check.`
        : `${program} ${version} was released.`,
    attributes: { version, by: 'release-robot', copies: how === 'failed' ? '6' : '8' }
  }));
