import { heartbeatOverdue, resourceMetrics } from '../../reachability';
import { minute } from '../../time';
import {
  added,
  highest,
  inPercent,
  lowest,
  metric,
  number,
  overTime,
  raised,
  row,
  signal,
  silent,
  snapshot,
  under,
  type Starter
} from './parts';

const up = 'check.up';
const time = 'check.time';
const certificate = 'check.certificate.left';
const inState = (state: string) =>
  metric('resources.counted', { statistic: 'last', where: [{ label: 'state', is: [state] }], combine: added() });

const downChecks = signal([
  row('all', up, { statistic: 'last', combine: { statistic: 'count', by: [] } }),
  row('up', up, { statistic: 'last', combine: added() }),
  { name: 'down', formula: 'all - up' }
]);

export const reachability: Starter = {
  about: 'What answers from outside and how fast, and which resources are up, down or silent.',
  parts: [
    snapshot(
      'Every check now',
      [
        ['Up, share of the time', inPercent(up), 'number', 'avg'],
        ['Answers in', metric(time), 'bar'],
        ['Failed attempts', metric('check.failures', { statistic: 'sum' }), 'number', 'sum'],
        ['Certificate, days left', metric(certificate, { statistic: 'min' }), 'number'],
        ['Answers in', metric(time), 'course']
      ],
      { size: [8, 5], sort: 'lowest' }
    ),
    number('Checks that are down', downChecks, [4, 2]),
    raised('reachability', [4, 3]),
    overTime('Answer time', metric(time)),
    overTime(
      'Where the time goes',
      metric('check.phase', { combine: { statistic: 'avg', by: ['phase'] } }),
      [6, 4],
      'stacked'
    ),
    overTime('Failed attempts', metric('check.failures', { statistic: 'sum' }), [6, 4], 'bars'),
    overTime('Certificates that expire first', lowest(metric(certificate, { statistic: 'min' }), 5)),
    ...under(
      'Resources: up, down, silent',
      number('Up', inState('up'), [4, 2]),
      number('Down', inState('down'), [4, 2]),
      number('Silent', inState('silent'), [4, 2]),
      silent(undefined, heartbeatOverdue / minute, [6, 5], 'Missing a heartbeat for 5 min'),
      overTime(
        'Resources by state',
        metric('resources.counted', { statistic: 'last', combine: added('state') }),
        [6, 5],
        'stacked'
      ),
      overTime('Up, by service', metric(resourceMetrics.up, { statistic: 'last', combine: added('service') })),
      overTime('Longest overdue', highest(metric(resourceMetrics.overdue, { statistic: 'max' }), 10))
    )
  ]
};
