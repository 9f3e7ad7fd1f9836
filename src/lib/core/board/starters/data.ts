import {
  added,
  gauge,
  highest,
  log,
  lowest,
  metric,
  number,
  overTime,
  raised,
  ranks,
  ring,
  row,
  signal,
  silent,
  snapshot,
  topErrors,
  under,
  type Starter
} from './parts';

const connections = metric('database.connections.use');
const storage = metric('database.storage.use');
const latency = metric('database.read.latency');

export const databases: Starter = {
  about: 'Whether applications get a connection, an answer in time, and room to write.',
  parts: [
    overTime('Connections in use', connections, [8, 4]),
    gauge('Fullest storage', highest(storage, 1), { warning: 75, danger: 90 }),
    number('Statements', metric('database.statements', { combine: added() })),
    snapshot('Every database now', [
      ['Connections', connections, 'shade'],
      ['Statements', metric('database.statements'), 'number'],
      ['Read latency', latency, 'number'],
      ['Processor', metric('database.processor.use'), 'shade'],
      ['Storage', storage, 'bar'],
      ['Replica lag', metric('database.replica.lag'), 'number'],
      ['Connections', connections, 'course']
    ]),
    overTime('Read latency', latency),
    overTime('Processor use', metric('database.processor.use')),
    overTime('Connections', metric('database.connections')),
    overTime('Replica lag', metric('database.replica.lag')),
    overTime('Rows read', metric('database.rows-read', { statistic: 'rate' })),
    raised('databases', [6, 3]),
    silent('databases', 15, [6, 3])
  ]
};

const size = metric('object-store.size', { statistic: 'last' });

export const objects: Starter = {
  about: 'What lies in the object stores, how it grows, how it is used, and what it costs.',
  parts: [
    overTime('Stored bytes', size, [8, 4]),
    number('Stored in all', metric('object-store.size', { statistic: 'last', combine: added() }), [4, 2], {
      earlier: 'P7D'
    }),
    number('Cost of a day', metric('object-store.cost', { statistic: 'last', combine: added() }), [4, 2], {
      earlier: 'P7D'
    }),
    overTime('Requests', metric('object-store.requests', { statistic: 'rate' }), [8, 4]),
    ring('Whose bytes', size, 'last'),
    snapshot('Every store now', [
      ['Stored', size, 'bar'],
      ['Objects', metric('object-store.objects', { statistic: 'last' }), 'number'],
      ['Requests', metric('object-store.requests', { statistic: 'rate' }), 'number'],
      ['Cost', metric('object-store.cost', { statistic: 'last' }), 'shade'],
      ['Stored', size, 'course']
    ]),
    overTime('Cost by store', metric('object-store.cost', { statistic: 'last' })),
    raised('objects', [6, 4])
  ]
};

const hits = metric('cache.hit.share');

export const caches: Starter = {
  about: 'How often the caches have the answer, and how much room is left.',
  parts: [
    overTime('Hits', hits, [8, 4]),
    gauge('Fewest hits', lowest(hits, 1), { warning: 80, danger: 60, worse: 'below' }),
    gauge('Fullest memory', highest(metric('cache.memory.use'), 1), { warning: 80, danger: 95 }),
    overTime('Memory use', metric('cache.memory.use')),
    overTime('Evictions', metric('cache.evicted', { statistic: 'sum' }), [6, 4], 'bars'),
    snapshot(
      'Every cache now',
      [
        ['Hits', hits, 'shade'],
        ['Memory', metric('cache.memory.use'), 'bar'],
        ['Evictions', metric('cache.evicted', { statistic: 'sum' }), 'number', 'sum'],
        ['Connections', metric('cache.connections'), 'number'],
        ['Hits', hits, 'course']
      ],
      { size: [12, 4], sort: 'lowest' }
    ),
    overTime('Connections', metric('cache.connections')),
    raised('caches', [6, 3])
  ]
};

const failed = { label: 'outcome', is: ['failed'] };

export const pipelines: Starter = {
  about: 'Whether the data arrived: runs, failures, what they failed of, and how long they take, across all instances.',
  parts: [
    overTime(
      'Runs by outcome',
      metric('pipeline.runs', { statistic: 'sum', combine: added('outcome') }),
      [8, 4],
      'bars'
    ),
    number('Failed runs', metric('pipeline.runs', { statistic: 'sum', where: [failed], combine: added() }), [4, 2], {
      reduce: 'sum'
    }),
    raised('pipelines'),
    ranks('Top errors', topErrors('pipelines'), 'sum', [6, 4]),
    overTime(
      'Failures of each pipeline',
      metric('pipeline.runs', { statistic: 'sum', where: [failed] }),
      [6, 4],
      'bars'
    ),
    snapshot(
      'Every pipeline',
      [
        [
          'Failed',
          metric('pipeline.runs', { statistic: 'sum', where: [failed], combine: added('resource', 'account') }),
          'shade',
          'sum'
        ],
        [
          'Succeeded',
          metric('pipeline.runs', {
            statistic: 'sum',
            where: [{ label: 'outcome', is: ['succeeded'] }],
            combine: added('resource', 'account')
          }),
          'number',
          'sum'
        ],
        ['Run time', metric('pipeline.run-time', { statistic: 'last' }), 'number'],
        ['Rows', metric('pipeline.rows', { statistic: 'sum' }), 'bar', 'sum'],
        ['Run time', metric('pipeline.run-time'), 'course']
      ],
      { size: [12, 4] }
    ),
    overTime('Run time', metric('pipeline.run-time')),
    overTime('Rows moved', metric('pipeline.rows', { statistic: 'sum' }), [6, 4], 'bars'),
    log('Errors in their lines', 'service = pipelines severity >= error')
  ]
};

const lag = metric('replication.lag');
const backlog = metric('replication.backlog');

export const replication: Starter = {
  about:
    'Whether the standby could take over now: how far it is behind, what waits, and whether it has room and strength to catch up.',
  parts: [
    overTime('Lag', lag, [8, 4]),
    number('Largest lag now', highest(lag, 1), [4, 2], { earlier: 'PT1H' }),
    gauge('Least disk headroom', lowest(metric('replication.disk-free'), 1), {
      warning: 25,
      danger: 10,
      worse: 'below'
    }),
    overTime('Backlog', backlog, [6, 4], 'areas'),
    overTime('Network in', metric('replication.network-in')),
    snapshot(
      'Every replication now',
      [
        ['Lag', lag, 'shade'],
        ['Backlog', backlog, 'number'],
        ['Network in', metric('replication.network-in'), 'number'],
        ['Processor', metric('replication.processor'), 'shade'],
        ['Disk headroom', metric('replication.disk-free'), 'bar'],
        ['Backlog', backlog, 'course']
      ],
      { size: [12, 3] }
    ),
    overTime('Processor use', metric('replication.processor')),
    raised('replication', [6, 4])
  ]
};

const depth = metric('queue.depth');
const age = metric('queue.oldest.age');

export const queues: Starter = {
  about: 'Whether messages are taken as fast as they come.',
  parts: [
    overTime('Age of the oldest message', age, [8, 4]),
    number('Oldest message', highest(age, 1), [4, 2], { earlier: 'PT1H' }),
    number('Messages waiting', metric('queue.depth', { combine: added() }), [4, 2], { earlier: 'P1D' }),
    overTime(
      'Sent and taken',
      signal(
        [
          row('sent', 'queue.sent', { statistic: 'sum', combine: added() }),
          row('taken', 'queue.taken', { statistic: 'sum', combine: added() })
        ],
        { show: ['sent', 'taken'] }
      )
    ),
    overTime('Messages waiting', depth),
    snapshot(
      'Every queue now',
      [
        ['Oldest', age, 'shade'],
        ['Waiting', depth, 'bar'],
        ['Sent a minute', metric('queue.sent', { statistic: 'sum' }), 'number', 'avg'],
        ['Taken a minute', metric('queue.taken', { statistic: 'sum' }), 'number', 'avg'],
        ['Waiting', depth, 'course']
      ],
      { size: [12, 4] }
    ),
    ...under('Trouble', raised('queues', [6, 3]), silent('queues', 15, [6, 3]))
  ]
};
