import { objectiveMetrics } from '../../objective';
import { highest, metric, number, overTime, raised, snapshot, under, type Starter } from './parts';

const left = metric(objectiveMetrics.left, { statistic: 'last' });
const share = metric(objectiveMetrics.share, { statistic: 'last' });
const pace = metric(objectiveMetrics.pace, { statistic: 'last' });

/** How promises are kept, and how fast their error budgets are used. */
export const objectives: Starter = {
  about: 'What is left of the error budget of each promise, and how fast it is used.',
  parts: [
    snapshot(
      'Every promise now',
      [
        ['Left', left, 'bar'],
        ['Good', share, 'number'],
        ['Used', pace, 'number'],
        ['Left', left, 'course']
      ],
      { size: [8, 5] }
    ),
    number('Fastest used', highest(pace, 1), [4, 2]),
    raised('objectives', [4, 3]),
    overTime('Error budget left', left),
    ...under('Error budgets', overTime('Used so many times too fast', pace), overTime('Good', share))
  ]
};
