// The alarms of Corallo Lines, of every kind: each of the planted troubles is found by one that suits it, and a usual day raises none.
import type { AlarmDefinition, Severity } from '../src/lib/core/alarm';
import type { Signal } from '../src/lib/core/signal';
import { combinedOver, failedShare, of, only, tickets } from './signals';

/** A signal in cells of another length than a minute. */
const every = (step: 'PT5M' | 'PT1H', signal: Signal): Signal => ({ ...signal, step });

type DemoAlarm = Omit<AlarmDefinition, 'route'>;

const alarm = (
  name: string,
  signal: Signal,
  levels: DemoAlarm['rule']['levels'],
  [needs, outOf]: readonly [number, number] = [3, 5],
  more: Partial<DemoAlarm> = {}
): DemoAlarm => ({
  name,
  signal,
  rule: { levels, window: { needs, of: outOf }, whenMissing: 'indeterminate', zone: 'UTC' },
  enabled: true,
  labels: {},
  owner: '',
  about: '',
  runbook: '',
  ...more
});

const above = (limit: number, severity: Severity, clear?: number): DemoAlarm['rule']['levels'][number] => ({
  severity,
  condition: { kind: 'threshold', is: 'above', limit, ...(clear !== undefined && { clear }) }
});
/** A silent series, or one that cannot be told, counts as one that is well. */
const missingIsWell = (alarm: DemoAlarm): DemoAlarm => ({
  ...alarm,
  rule: { ...alarm.rule, whenMissing: 'does not meet' }
});
/** As many of the last cells must be well before it is clear again. */
const clearing = (needs: number, alarm: DemoAlarm): DemoAlarm => ({
  ...alarm,
  rule: { ...alarm.rule, clearing: { needs, of: needs } }
});
const level = (
  severity: Severity,
  condition: DemoAlarm['rule']['levels'][number]['condition']
): DemoAlarm['rule']['levels'] => [{ severity, condition }];

/** The share of its memory limit that the fullest copy of a workload uses, in %. */
const memoryOfWorkloads: Signal = {
  version: 2,
  step: 'PT5M',
  rows: [
    {
      ...{ name: 'used', metric: 'workload_memory_bytes', where: [], statistic: 'max' },
      combine: { statistic: 'max', by: ['account', 'resource'] }
    },
    {
      ...{ name: 'limit', metric: 'workload_memory_limit_bytes', where: [], statistic: 'max' },
      combine: { statistic: 'max', by: ['account', 'resource'] }
    },
    { name: 'share', formula: 'used / limit' }
  ],
  show: ['share'],
  unit: '%'
};

/** Alarms of every kind over all services; who they notify is filled in when they are made. */
export const alarms: readonly DemoAlarm[] = [
  alarm('Processor nearly exhausted', of('machine.processor.use', 'avg', only('account', 'corallo-prod')), [
    above(85, 'major')
  ]),
  alarm('Memory nearly exhausted', of('machine.memory.use'), [above(85, 'major', 80)], [5, 5]),
  alarm('File system nearly full', every('PT5M', of('machine.filesystem.use', 'last')), [
    above(85, 'minor', 82),
    above(95, 'critical', 92)
  ]),
  alarm(
    'File system full in four days',
    every('PT5M', of('machine.filesystem.use', 'last')),
    level('warning', { kind: 'forecast', is: 'above', limit: 95, within: 'P4D', from: 'P2D' }),
    [6, 6],
    { labels: { horizon: 'days' } }
  ),
  alarm('Machine silent', of('machine.processor.use'), level('major', { kind: 'absence', for: 'PT15M' }), [1, 1], {
    about:
      'It is down, or nothing is seen of it any more. **Before a planned stop**, shelve this alarm for the machine.'
  }),
  alarm(
    'Web machine unlike its peers',
    every(
      'PT5M',
      of(
        'machine.processor.use',
        'avg',
        { label: 'resource', matches: '^booking-web' },
        only('account', 'corallo-prod')
      )
    ),
    level('minor', { kind: 'rank', is: 'outside', by: 12, atLeast: 30 }),
    [3, 4]
  ),
  alarm(
    'Freight desk busy out of hours',
    every('PT5M', of('machine.processor.use', 'avg', { label: 'resource', matches: '^freight-desk' })),
    level('minor', {
      kind: 'threshold',
      is: 'above',
      limit: 40,
      exceptions: [{ times: { weekdays: [1, 2, 3, 4, 5], hours: { from: '05:00', to: '19:00' } }, off: true }]
    }),
    [3, 4],
    { about: 'Nobody books freight at night: look for a job that hangs.' }
  ),
  alarm(
    'Connections nearly used up',
    of('database.connections.use', 'max', tickets),
    [above(70, 'major', 60), above(80, 'critical', 70)],
    [3, 5],
    {
      owner: 'Data',
      labels: { team: 'data' },
      about: 'Ticket sales wait for a connection. Look for **long transactions** first.'
    }
  ),
  alarm(
    'Database storage nearly full',
    every('PT5M', of('database.storage.use', 'last')),
    [above(85, 'minor', 80), above(95, 'critical', 90)],
    [2, 2],
    { owner: 'Data', labels: { team: 'data' } }
  ),
  alarm(
    'Reads slow for the hour',
    every('PT5M', of('database.read.latency', 'avg', tickets)),
    level('minor', { kind: 'band', is: 'above', widths: 8 }),
    [5, 6],
    { owner: 'Data', labels: { team: 'data' } }
  ),
  alarm(
    'Replication falls behind',
    of('replication.backlog', 'last'),
    [above(500 * 1024 * 1024, 'major', 200 * 1024 * 1024)],
    [5, 5],
    {
      owner: 'Data',
      labels: { team: 'data' }
    }
  ),
  {
    ...alarm(
      'Replication stalled',
      of('replication.backlog'),
      level('critical', { kind: 'combined', needs: 'all' }),
      [3, 3],
      {
        owner: 'Data',
        labels: { team: 'data' },
        about: 'What is written is not copied, and the standby gets nothing. It **cannot take over** without loss.'
      }
    ),
    signal: undefined,
    combines: {
      step: 'PT5M',
      by: ['resource'],
      parts: [
        {
          name: 'the standby is ten minutes behind',
          signal: every('PT5M', of('replication.lag', 'max')),
          condition: { kind: 'threshold', is: 'above', limit: 600 }
        },
        {
          name: 'nothing arrives there',
          signal: every('PT5M', of('replication.network-in')),
          condition: { kind: 'threshold', is: 'below', limit: 10_000 }
        }
      ]
    }
  },
  missingIsWell(
    alarm(
      'Nightly load fails',
      combinedOver('PT5M', 'pipeline.errors', 'sum', 'sum'),
      [above(20, 'minor', 5)],
      [1, 1],
      {
        owner: 'Data',
        labels: { team: 'data' },
        about: 'The fares of tomorrow are not there. Start it again before 05:00.'
      }
    )
  ),
  alarm('Messages wait too long', of('queue.oldest.age', 'max'), [above(60, 'major', 30)], [5, 5]),
  alarm(
    'Queue deeper than usual',
    every('PT5M', of('queue.depth', 'max')),
    level('warning', { kind: 'band', is: 'above', widths: 8 }),
    [5, 6],
    { enabled: false, about: 'Off until the gates have their new queue.' }
  ),
  missingIsWell(
    alarm('Functions fail', every('PT5M', of('function.failures', 'sum')), [above(100, 'major', 50)], [2, 3])
  ),
  alarm(
    'Positions slow for the hour',
    every('PT5M', of('function.duration', 'avg', only('resource', 'vessel-position'))),
    level('minor', { kind: 'band', is: 'above', widths: 5 }),
    [3, 4],
    { owner: 'Fleet', labels: { team: 'fleet' } }
  ),
  alarm('Responses fail', failedShare, [above(1, 'minor', 0.5), above(5, 'critical', 1)], [2, 3]),
  alarm(
    'Sales far below last week',
    combinedOver('PT5M', 'balancer.responses', 'sum', 'sum', only('class', '2xx'), only('resource', 'booking-web')),
    level('major', { kind: 'change', is: 'fall', by: 60, as: 'percent', against: 'week', over: 'PT1H' }),
    [6, 6],
    {
      about: 'Fewer tickets are sold than at this time a week ago. A storm warning explains it; an error page does not.'
    }
  ),
  alarm(
    'Answers slow for the hour',
    every('PT5M', of('balancer.response.time')),
    level('minor', { kind: 'band', is: 'above', widths: 8 }),
    [5, 6]
  ),
  alarm(
    'Machine group too small',
    of('machine.group.running', 'min'),
    level('major', { kind: 'threshold', is: 'below', limit: 2 }),
    [3, 3]
  ),
  alarm(
    'Cache misses more than usual',
    every('PT5M', of('cache.hit.share')),
    level('minor', { kind: 'band', is: 'below', widths: 8 }),
    [5, 6]
  ),
  alarm(
    'Workload near its memory limit',
    memoryOfWorkloads,
    [above(80, 'warning', 40), above(97, 'major', 85)],
    [2, 3],
    { about: 'What passes its limit is killed and starts again. `seatmap` leaks.' }
  ),
  clearing(
    24,
    missingIsWell(
      alarm(
        'Workload restarts again and again',
        combinedOver('PT1H', 'workload_restarts', 'increase', 'sum'),
        [above(0, 'minor')],
        [2, 24],
        { about: 'It crashes, or is killed for its memory.' }
      )
    )
  ),
  alarm(
    'Copies are missing',
    every('PT5M', of('cluster_copies_ready', 'min')),
    level('major', { kind: 'change', is: 'fall', by: 30, as: 'percent', against: 'day', over: 'PT15M' }),
    [3, 3]
  ),
  alarm(
    'Store costs much more than a week ago',
    every('PT1H', of('object-store.cost', 'last')),
    level('warning', { kind: 'change', is: 'rise', by: 50, as: 'percent', against: 'week', over: 'PT3H' }),
    [2, 3],
    { owner: 'Data', labels: { team: 'data' } }
  ),
  alarm(
    'Vessel silent',
    of('gateway_heartbeats', 'increase'),
    level('major', { kind: 'absence', for: 'PT15M' }),
    [1, 1],
    {
      owner: 'Fleet',
      labels: { team: 'fleet' },
      about: 'The gateway of a vessel has sent no heartbeat. Ask the bridge by radio first.'
    }
  ),
  alarm(
    'Cannot be reached',
    of('check.up', 'last'),
    [{ severity: 'critical', condition: { kind: 'threshold', is: 'below', limit: 1 } }],
    [1, 1],
    {
      owner: 'Network',
      about:
        'From outside it does not answer, or not as it should. **Look at the check**: it says which phase failed, and since when.'
    }
  ),
  alarm('No data from an account', of('account.data.age', 'max'), [
    above(900, 'major', 300),
    above(3600, 'critical', 300)
  ]),
  alarm('A service of an account sends nothing', of('account.services.silent', 'max'), [above(0, 'minor')])
];
