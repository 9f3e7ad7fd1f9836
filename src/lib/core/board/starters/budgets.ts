import { budgetMetrics } from '../../cost';
import { added, highest, metric, number, overTime, raised, snapshot, under, type Starter } from './parts';

const expected = metric(budgetMetrics.expected, { statistic: 'last' });
const spent = metric(budgetMetrics.spent, { statistic: 'last' });
/** Costs have one sample a day. */
const costBy = (label: string) => metric('account.cost', { statistic: 'sum', combine: added(label) });

/** How budgets stand, and what costs are made of. */
export const budgets: Starter = {
  about: 'How much of each budget is spent and expected to be spent, and what is paid for each day.',
  parts: [
    snapshot(
      'Every budget now',
      [
        ['Expected', expected, 'bar'],
        ['Spent', spent, 'bar'],
        ['Expected', expected, 'course']
      ],
      { size: [8, 5] }
    ),
    number('Highest expected', highest(expected, 1), [4, 2]),
    raised('budgets', [4, 3]),
    overTime('Expected at the end of the period', expected),
    overTime('Spent', spent),
    ...under(
      'Costs',
      overTime('By service', costBy('cost.service'), [6, 5], 'stacked'),
      overTime('By account', costBy('resource'), [6, 5], 'stacked')
    )
  ]
};
