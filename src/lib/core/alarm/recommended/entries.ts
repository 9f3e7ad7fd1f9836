import type { Statistic } from '../../series';
import { plainSignal, type LabelCondition, type Signal } from '../../signal';
import type { Condition } from '../condition';
import type { AlarmDefinition } from '../schema';
import type { Severity } from '../severity';

/** An alarm that suits a service, as it is written down here. */
export interface Entry {
  readonly service: string;
  readonly name: string;
  readonly why: string;
  /** All of them have to be collected. */
  readonly signal: Signal;
  readonly levels: readonly (readonly [Severity, Condition])[];
  readonly window?: readonly [needs: number, of: number];
  readonly clearing?: number;
  readonly whenMissing?: AlarmDefinition['rule']['whenMissing'];
}

const of = (
  metric: string,
  statistic: Statistic = 'avg',
  { step = 'PT1M', where = [] as readonly LabelCondition[] } = {}
): Signal => plainSignal({ metric, statistic, step, where: [...where] });
const above = (limit: number, clear: number): Condition => ({ kind: 'threshold', is: 'above', limit, clear });
const below = (limit: number, clear: number): Condition => ({ kind: 'threshold', is: 'below', limit, clear });
const band = (is: 'above' | 'below' | 'outside', widths = 5): Condition => ({ kind: 'band', is, widths });

/** A row with one series for each container. */
const containerRow = (name: string, metric: string): Signal['rows'][number] => ({
  ...{ name, metric, where: [], statistic: 'avg' },
  combine: { statistic: 'avg', by: ['resource', 'copy', 'account'] }
});
const share: Signal['rows'][number] = { name: 'share', formula: 'used / limit' };

/** Numbers are what is sensible where nothing is known; the rehearsal over what is there proposes others. */
export const entries: readonly Entry[] = [
  {
    service: 'machines',
    name: 'Processor nearly exhausted',
    why: 'Everything on the machine waits.',
    signal: of('machine.processor.use'),
    levels: [
      ['minor', above(80, 70)],
      ['major', above(95, 85)]
    ],
    window: [8, 10],
    clearing: 5
  },
  {
    service: 'machines',
    name: 'Memory nearly exhausted',
    why: 'The next process is killed, or the machine swaps.',
    signal: of('machine.memory.use'),
    levels: [['major', above(90, 85)]],
    window: [5, 5],
    clearing: 5
  },
  {
    service: 'machines',
    name: 'File system full within four days',
    why: 'There is time to make room while nobody is woken.',
    signal: of('machine.filesystem.use', 'last', { step: 'PT5M' }),
    levels: [['minor', { kind: 'forecast', is: 'above', limit: 95, within: 'P4D', from: 'P2D' }]],
    window: [6, 6]
  },
  {
    service: 'machines',
    name: 'Machine silent',
    why: 'It is down, or nothing is seen of it any more.',
    signal: of('machine.processor.use'),
    levels: [['major', { kind: 'absence', for: 'PT15M' }]],
    window: [1, 1]
  },
  {
    service: 'databases',
    name: 'Connections nearly used up',
    why: 'Applications get no connection any more.',
    signal: of('database.connections.use', 'max'),
    levels: [
      ['minor', above(80, 70)],
      ['critical', above(95, 85)]
    ],
    clearing: 5
  },
  {
    service: 'databases',
    name: 'Storage nearly full',
    why: 'A full database takes no more writes.',
    signal: of('database.storage.use', 'last', { step: 'PT5M' }),
    levels: [
      ['minor', above(85, 80)],
      ['critical', above(95, 90)]
    ],
    window: [2, 2]
  },
  {
    service: 'databases',
    name: 'Replica falls behind',
    why: 'Readers see the past, and the standby cannot take over.',
    signal: of('database.replica.lag', 'max'),
    levels: [['major', above(60, 30)]],
    window: [5, 5],
    clearing: 5
  },
  {
    service: 'databases',
    name: 'Reads slow for the hour',
    why: 'Slower than at this time of other days.',
    signal: of('database.read.latency', 'avg', { step: 'PT5M' }),
    levels: [['minor', band('above')]],
    window: [3, 4]
  },
  {
    service: 'databases',
    name: 'Database silent',
    why: 'It is down, or nothing is seen of it any more.',
    signal: of('database.connections.use'),
    levels: [['major', { kind: 'absence', for: 'PT15M' }]],
    window: [1, 1]
  },
  {
    service: 'functions',
    name: 'Function slow for the hour',
    why: 'Slower than at this time of other days.',
    signal: of('function.duration', 'avg', { step: 'PT5M' }),
    levels: [['minor', band('above')]],
    window: [3, 4],
    whenMissing: 'keep'
  },
  {
    service: 'functions',
    name: 'Function fails',
    why: 'Calls come back with an error.',
    signal: of('function.failures', 'sum', { step: 'PT5M' }),
    levels: [['major', above(20, 10)]],
    window: [2, 3],
    whenMissing: 'does not meet'
  },
  {
    service: 'queues',
    name: 'Messages wait too long',
    why: 'Whoever takes them is slower than what comes, or down.',
    signal: of('queue.oldest.age', 'max'),
    levels: [['major', above(300, 120)]],
    window: [5, 5],
    clearing: 5
  },
  {
    service: 'queues',
    name: 'Queue deeper than usual',
    why: 'More came than at this time of other days, or less was taken.',
    signal: of('queue.depth', 'max', { step: 'PT5M' }),
    levels: [['warning', band('above', 6)]],
    window: [3, 4]
  },
  {
    service: 'clusters',
    name: 'Copies are missing',
    why: 'Fewer copies of a workload are ready than before.',
    signal: of('cluster_copies_ready', 'min', { step: 'PT5M' }),
    levels: [['major', { kind: 'change', is: 'fall', by: 30, as: 'percent', against: 'day', over: 'PT15M' }]],
    window: [3, 3]
  },
  {
    service: 'clusters',
    name: 'Workload restarts again and again',
    why: 'It crashes, or is killed for its memory.',
    signal: {
      ...of('workload_restarts', 'increase', { step: 'PT15M' }),
      rows: [
        {
          name: 'a',
          metric: 'workload_restarts',
          where: [],
          statistic: 'increase',
          combine: { statistic: 'sum', by: ['resource', 'account'] }
        }
      ]
    },
    levels: [['major', above(3, 1)]],
    window: [2, 4],
    whenMissing: 'does not meet'
  },
  {
    service: 'clusters',
    name: 'Container near its memory limit',
    why: 'It is killed when it needs more, and whoever it serves waits.',
    signal: {
      version: 2,
      step: 'PT1M',
      rows: [
        containerRow('used', 'workload_memory_bytes'),
        containerRow('limit', 'workload_memory_limit_bytes'),
        share
      ],
      show: ['share'],
      unit: '%'
    },
    levels: [['warning', above(90, 80)]],
    window: [5, 5],
    whenMissing: 'does not meet'
  },
  {
    service: 'balancers',
    name: 'Targets are unhealthy',
    why: 'Fewer targets answer than an hour before.',
    signal: of('balancer.targets.healthy', 'min'),
    levels: [['major', { kind: 'change', is: 'fall', by: 30, as: 'percent', against: 'before', over: 'PT1H' }]],
    window: [3, 3]
  },
  {
    service: 'balancers',
    name: 'Answers slow for the hour',
    why: 'Slower than at this time of other days.',
    signal: of('balancer.response.time', 'avg', { step: 'PT5M' }),
    levels: [['minor', band('above')]],
    window: [3, 4]
  },
  {
    service: 'objects',
    name: 'Store costs much more than a week ago',
    why: 'Somebody fills it, or reads it from far away.',
    signal: of('object-store.cost', 'last', { step: 'PT1H' }),
    levels: [['warning', { kind: 'change', is: 'rise', by: 50, as: 'percent', against: 'week', over: 'PT3H' }]],
    window: [2, 3],
    whenMissing: 'keep'
  },
  {
    service: 'caches',
    name: 'Cache misses more than usual',
    why: 'What it spares falls on the databases.',
    signal: of('cache.hit.share', 'avg', { step: 'PT5M' }),
    levels: [['minor', band('below', 6)]],
    window: [3, 4]
  },
  {
    service: 'caches',
    name: 'Cache memory nearly full',
    why: 'It drops what is needed.',
    signal: of('cache.memory.use', 'max'),
    levels: [['minor', above(95, 90)]],
    window: [5, 5],
    clearing: 5
  },
  {
    service: 'pipelines',
    name: 'Pipeline run failed',
    why: 'The data of the night are not there in the morning.',
    signal: of('pipeline.errors', 'sum'),
    levels: [['minor', above(0, 0)]],
    window: [1, 1],
    whenMissing: 'does not meet'
  },
  {
    service: 'replication',
    name: 'Standby falls behind',
    why: 'It could not take over without loss.',
    signal: of('replication.lag', 'max'),
    levels: [
      ['major', above(120, 60)],
      ['critical', above(600, 120)]
    ],
    window: [5, 5],
    clearing: 5
  },
  {
    service: 'replication',
    name: 'Disk of the standby nearly full',
    why: 'Replication stops when there is no room for the backlog.',
    signal: of('replication.disk-free', 'min'),
    levels: [['major', below(10, 15)]],
    window: [5, 5]
  },
  {
    service: 'gateways',
    name: 'Gateway silent',
    why: 'The site behind it cannot be reached.',
    signal: of('gateway_heartbeats', 'increase'),
    levels: [['major', { kind: 'absence', for: 'PT15M' }]],
    window: [1, 1]
  },
  {
    service: 'gateways',
    name: 'Tunnels are down',
    why: 'A site is reached by fewer ways than a day before.',
    signal: of('gateway.tunnels', 'min'),
    levels: [['major', below(1, 1)]],
    window: [3, 3]
  },
  {
    service: 'reachability',
    name: 'Cannot be reached',
    why: 'From outside it does not answer, or not as it should, whatever its own metrics say.',
    // A check is down only when its retries have failed as well: there is nothing more to wait for.
    signal: of('check.up', 'last'),
    levels: [['critical', below(1, 1)]],
    window: [1, 1],
    whenMissing: 'keep'
  },
  {
    service: 'reachability',
    name: 'Certificate expires soon',
    why: 'From that day on nobody gets in.',
    signal: of('check.certificate.left', 'min', { step: 'PT5M' }),
    levels: [
      ['warning', below(21, 21)],
      ['major', below(5, 5)]
    ],
    window: [2, 2],
    whenMissing: 'keep'
  },
  {
    service: 'reachability',
    name: 'Answers slow from outside for the hour',
    why: 'Slower than at this time of other days, as people there see it.',
    signal: of('check.time', 'avg', { step: 'PT5M' }),
    levels: [['minor', band('above', 6)]],
    window: [3, 4],
    whenMissing: 'keep'
  },
  {
    service: 'accounts',
    name: 'No data from an account',
    why: 'What happens there cannot be seen: its alarms stay as they were.',
    signal: of('account.data.age', 'max'),
    levels: [
      ['major', above(900, 300)],
      ['critical', above(3600, 300)]
    ]
  },
  {
    service: 'accounts',
    name: 'A service of an account sends nothing',
    why: 'Its credential may lack a right, or the provider refuses.',
    signal: of('account.services.silent', 'max'),
    levels: [['minor', above(0, 0)]]
  },
  {
    service: 'targets',
    name: 'A page cannot be read',
    why: 'The program behind it may be down; nothing of it is seen.',
    signal: of('target.up', 'max'),
    levels: [['major', below(1, 1)]],
    window: [3, 3]
  },
  {
    service: 'bussola',
    name: 'Bussola collects late',
    why: 'What happens is seen and alarmed on later than it should be.',
    signal: of('bussola.intake.lag', 'max'),
    levels: [['major', above(180, 60)]],
    window: [3, 5]
  },
  {
    service: 'bussola',
    name: 'Bussola judges late',
    why: 'Alarms are raised later than they should be.',
    signal: of('bussola.judging.lag', 'max'),
    levels: [
      ['major', above(60, 20)],
      ['critical', above(300, 20)]
    ],
    window: [2, 3]
  },
  {
    service: 'bussola',
    name: 'Messages wait to be sent',
    why: 'People on call are notified late, or not at all.',
    signal: of('bussola.outbox.lag', 'max'),
    levels: [
      ['major', above(120, 30)],
      ['critical', above(600, 30)]
    ]
  },
  {
    service: 'bussola',
    name: 'A backup is overdue',
    why: 'What is lost now was never backed up. The page Backups says why there is none.',
    signal: of('bussola.backup.overdue', 'max'),
    levels: [
      ['minor', above(3600, 600)],
      ['major', above(86_400, 3600)]
    ]
  },
  {
    service: 'bussola',
    name: 'A backup could not be restored',
    why: 'The last rehearsal failed: what is backed up may not come back. The page Backups says why.',
    signal: of('bussola.rehearsal.failed', 'max'),
    levels: [['major', above(0, 0)]]
  },
  {
    service: 'bussola',
    name: 'Bussola’s disk fills up',
    why: 'Below its limit no samples are taken; a database whose disk is full stops.',
    signal: of('bussola.disk.free', 'min'),
    levels: [
      ['minor', below(5e9, 6e9)],
      ['critical', below(1e9, 1.5e9)]
    ]
  },
  {
    service: 'bussola',
    name: 'Bussola answers nobody for seconds',
    why: 'Pages stand still while its event loop is blocked.',
    signal: of('bussola.loop.block', 'max'),
    levels: [['minor', above(2, 1)]],
    window: [3, 5]
  }
];
