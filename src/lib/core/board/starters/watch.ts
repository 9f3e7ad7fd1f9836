import { objectiveMetrics } from '../../objective';
import { added, fewOrMany, gauge, lowest, metric, number, overTime, row, signal, type Starter } from './parts';

const responses = 'balancer.responses';
const availability = signal(
  [
    row('good', responses, { statistic: 'sum', where: [{ label: 'class', isNot: ['5xx'] }], combine: added() }),
    row('all', responses, { statistic: 'sum', combine: added() }),
    { name: 'share', formula: 'good / all' }
  ],
  { unit: '%' }
);

/** A summary for people who do not operate: is something wrong, where, and do customers notice. */
export const watch: Starter = {
  about: 'Is something wrong, where, and do customers notice? A summary for people who do not operate.',
  parts: [
    { content: { title: 'Wrong now', picture: 'incidents', open: true }, size: { w: 8, h: 3 } },
    gauge('Answers that were good', availability, {
      scale: [95, 100],
      warning: 99.9,
      danger: 99,
      worse: 'below',
      size: [4, 3]
    }),
    { content: { title: 'Services', picture: 'status', of: 'services' }, size: { w: 4, h: 6 } },
    number('Requests a minute', metric(responses, { statistic: 'sum', combine: added() }), [4, 2], { earlier: 'P7D' }),
    number('Cost, a day', metric('account.cost', { statistic: 'sum', combine: added() }), [4, 2], { earlier: 'P7D' }),
    fewOrMany('Error budget left, by promise', metric(objectiveMetrics.left, { statistic: 'last' }), 'bar', [4, 4]),
    fewOrMany('Stored, by store', metric('object-store.size', { statistic: 'last' }), 'bar', [4, 4]),
    number('Objects stored', metric('object-store.objects', { statistic: 'last', combine: added() }), [4, 2], {
      earlier: 'P7D'
    }),
    number('Stored in all', metric('object-store.size', { statistic: 'last', combine: added() }), [4, 2], {
      earlier: 'P7D'
    }),
    overTime('Requests', metric(responses, { statistic: 'sum', combine: added() }), [8, 4], 'areas'),
    gauge('Least room to take over', lowest(metric('replication.disk-free'), 1), {
      warning: 25,
      danger: 10,
      worse: 'below'
    }),
    { content: { title: 'Stopped reporting', picture: 'silent', minutes: 15 }, size: { w: 4, h: 3 } },
    { content: { title: 'Groups', picture: 'status', of: 'groups' }, size: { w: 4, h: 3 } },
    { content: { title: 'Alarms', picture: 'alarms' }, size: { w: 4, h: 3 } }
  ]
};
