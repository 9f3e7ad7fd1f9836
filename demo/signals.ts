// Signals that boards and alarms of Corallo Lines share.
import { plainSignal, type LabelCondition, type Signal } from '../src/lib/core/signal';

export type Statistic = Parameters<typeof plainSignal>[0]['statistic'];
export const only = (label: string, ...is: string[]): LabelCondition => ({ label, is });
export const of = (metric: string, statistic: Statistic = 'avg', ...where: LabelCondition[]): Signal =>
  plainSignal({ metric, where, statistic });

/** The share of responses of a class, in %. */
export const failedShare: Signal = {
  version: 2,
  step: 'PT5M',
  rows: [
    {
      name: 'failed',
      metric: 'balancer.responses',
      where: [only('class', '5xx')],
      statistic: 'sum',
      combine: { statistic: 'sum', by: ['resource'] }
    },
    {
      name: 'all',
      metric: 'balancer.responses',
      where: [],
      statistic: 'sum',
      combine: { statistic: 'sum', by: ['resource'] }
    },
    { name: 'share', formula: 'failed / all' }
  ],
  show: ['share'],
  unit: '%'
};

/** The databases behind ticket sales. */
export const tickets = only('resource', 'ticket-orders', 'fares', 'fares-replica');

/** One line for each resource, of all its series. */
export const combinedOver = (
  step: 'PT5M' | 'PT1H',
  metric: string,
  statistic: Statistic,
  how: 'sum' | 'max',
  ...where: LabelCondition[]
): Signal => ({
  version: 2,
  step,
  rows: [{ name: 'a', metric, where, statistic, combine: { statistic: how, by: ['account', 'resource'] } }],
  show: ['a']
});
