import {
  added,
  heat,
  inPercent,
  highest,
  metric,
  number,
  overTime,
  raised,
  ranks,
  row,
  signal,
  silent,
  snapshot,
  under,
  type Starter
} from './parts';

/** A share of all, in percent: of rows `part` and `all`. */
const share = (part: ReturnType<typeof row>, all: ReturnType<typeof row>, formula = 'part / all') =>
  signal([part, all, { name: 'share', formula }], { unit: '%' });

const calls = 'function.calls';
const failures = 'function.failures';
const failedShare = share(
  row('part', failures, { statistic: 'sum', combine: added('resource', 'account') }),
  row('all', calls, { statistic: 'sum', combine: added('resource', 'account') })
);

export const functions: Starter = {
  about: 'How often the functions are called, how long they take, and how many calls fail.',
  parts: [
    overTime('Calls', metric(calls, { statistic: 'sum' }), [8, 4], 'stacked'),
    number('Calls a minute', metric(calls, { statistic: 'sum', combine: added() }), [4, 2], { earlier: 'P7D' }),
    raised('functions'),
    overTime('Duration', metric('function.duration')),
    overTime('Failed calls, share', failedShare),
    snapshot('Every function now', [
      ['Failed', failedShare, 'shade'],
      ['Calls', metric(calls, { statistic: 'sum' }), 'bar', 'avg'],
      ['Duration', metric('function.duration'), 'number'],
      ['At once', metric('function.at-once'), 'number'],
      ['Duration', metric('function.duration'), 'course']
    ]),
    heat('Duration, all functions', metric('function.duration')),
    overTime('Calls at once', metric('function.at-once'))
  ]
};

const responses = 'balancer.responses';
const availability = share(
  row('part', responses, {
    statistic: 'sum',
    where: [{ label: 'class', isNot: ['5xx'] }],
    combine: added('resource', 'account')
  }),
  row('all', responses, { statistic: 'sum', combine: added('resource', 'account') })
);

export const balancers: Starter = {
  about: 'What people ask of the services behind the balancers, how long they wait, and how many get an answer.',
  parts: [
    overTime('Availability', availability, [8, 4]),
    number('Requests a minute', metric(responses, { statistic: 'sum', combine: added() }), [4, 2], { earlier: 'P7D' }),
    raised('balancers'),
    overTime('Response time', metric('balancer.response.time')),
    overTime('Responses by class', metric(responses, { statistic: 'sum', combine: added('class') }), [6, 4], 'stacked'),
    snapshot(
      'Every balancer now',
      [
        ['Availability', availability, 'number', 'avg'],
        ['Requests', metric(responses, { statistic: 'sum', combine: added('resource', 'account') }), 'bar', 'avg'],
        ['Response time', metric('balancer.response.time'), 'shade'],
        ['Healthy targets', metric('balancer.targets.healthy'), 'number'],
        ['Response time', metric('balancer.response.time'), 'course']
      ],
      { size: [12, 4], sort: 'lowest' }
    ),
    overTime(
      'Responses that failed',
      metric(responses, { statistic: 'sum', where: [{ label: 'class', is: ['5xx'] }] }),
      [6, 4],
      'bars'
    ),
    overTime('Healthy targets', metric('balancer.targets.healthy'))
  ]
};

const byCopy = added('resource', 'copy', 'account');
const ofLimit = (used: string, limit: string, statistic: 'rate' | 'avg') =>
  share(row('part', used, { statistic, combine: byCopy }), row('all', limit, { combine: byCopy }));
const processorOfLimit = ofLimit('workload_processor_seconds', 'workload_processor_limit', 'rate');
const memoryOfLimit = ofLimit('workload_memory_bytes', 'workload_memory_limit_bytes', 'avg');
const requestsFailed = share(
  row('part', 'workload_requests', {
    statistic: 'rate',
    where: [{ label: 'outcome', is: ['failed'] }],
    combine: added('resource')
  }),
  row('all', 'workload_requests', { statistic: 'rate', combine: added('resource') })
);

export const clusters: Starter = {
  about: 'From the cluster down to its nodes, workloads and containers: what they use of what they may.',
  // Each narrows those after it.
  pickers: [
    { name: 'cluster', title: 'Cluster', label: 'tag.cluster' },
    { name: 'node', title: 'Node', label: 'node' },
    { name: 'workload', title: 'Workload', label: 'workload' },
    { name: 'container', title: 'Container', label: 'copy' }
  ],
  parts: [
    overTime('Memory of its limit, each container', memoryOfLimit, [8, 4]),
    number('Copies ready', metric('cluster_copies_ready', { combine: added() }), [4, 2], { earlier: 'P1D' }),
    number('Restarts', metric('workload_restarts', { statistic: 'increase', combine: added() }), [4, 2], {
      reduce: 'sum'
    }),
    ...under(
      'Nodes',
      overTime('Processor', inPercent('host_processor_ratio')),
      overTime('Memory', inPercent('host_memory_ratio')),
      overTime('Network', metric('host_network_bytes', { statistic: 'rate' }), [12, 4])
    ),
    ...under(
      'Workloads',
      overTime('Requests', metric('workload_requests', { statistic: 'rate', combine: added('resource') })),
      overTime('Failed requests, share', requestsFailed),
      overTime(
        'Restarts',
        metric('workload_restarts', { statistic: 'increase', combine: added('resource') }),
        [6, 4],
        'bars'
      ),
      raised('clusters', [6, 4])
    ),
    ...under(
      'Containers',
      snapshot('Every container now', [
        ['Memory of limit', memoryOfLimit, 'shade'],
        ['Memory', metric('workload_memory_bytes', { combine: byCopy }), 'number'],
        ['Memory limit', metric('workload_memory_limit_bytes', { combine: byCopy }), 'number'],
        ['Processor of limit', processorOfLimit, 'shade'],
        ['Restarts', metric('workload_restarts', { statistic: 'increase', combine: byCopy }), 'number', 'sum'],
        ['Memory', metric('workload_memory_bytes', { combine: byCopy }), 'course']
      ]),
      overTime('Processor of its limit, each container', processorOfLimit, [12, 4])
    )
  ]
};

export const gateways: Starter = {
  about: 'Whether ships and sites are connected: heartbeats, how old positions are, and what the links carry.',
  parts: [
    overTime('Age of positions', metric('gateway_position_age_seconds'), [8, 4]),
    number('Oldest position', highest(metric('gateway_position_age_seconds'), 1), [4, 2], { earlier: 'PT1H' }),
    silent('gateways', 5),
    overTime('Heartbeats', metric('gateway_heartbeats', { statistic: 'increase' })),
    overTime('What the links carry', metric('gateway_link_bytes', { statistic: 'rate' }), [6, 4]),
    snapshot('Every gateway now', [
      ['Position age', metric('gateway_position_age_seconds'), 'shade'],
      ['Heartbeats a minute', metric('gateway_heartbeats', { statistic: 'increase' }), 'number'],
      ['Link', metric('gateway_link_bytes', { statistic: 'rate', combine: added('resource', 'account') }), 'number'],
      ['Tunnels', metric('gateway.tunnels'), 'number'],
      ['Dropped', metric('gateway.dropped', { statistic: 'sum' }), 'number', 'sum'],
      ['Position age', metric('gateway_position_age_seconds'), 'course']
    ]),
    overTime('Tunnels up', metric('gateway.tunnels')),
    overTime('Packets dropped', metric('gateway.dropped', { statistic: 'sum' }), [6, 4], 'bars'),
    overTime('Bytes out', metric('gateway.bytes-out')),
    raised('gateways', [6, 4]),
    ranks('Busiest links', metric('gateway_link_bytes', { statistic: 'rate' }), 'avg', [6, 4])
  ]
};
