import { highest, lowest, metric, number, overTime, raised, snapshot, type Starter } from './parts';

const up = metric('target.up', { statistic: 'min' });
const duration = metric('target.duration', { statistic: 'max' });
const samples = metric('target.samples', { statistic: 'last' });

/** How OpenMetrics pages are read. */
export const targets: Starter = {
  about: 'Which pages can be read, how long they take to answer, and how many lines they have.',
  parts: [
    snapshot(
      'Pages now',
      [
        ['Up', up, 'number'],
        ['Answer time', duration, 'bar'],
        ['Lines', samples, 'number'],
        ['Answer time', duration, 'course']
      ],
      { size: [8, 5] }
    ),
    number('Lowest of all', lowest(up, 1), [4, 2]),
    raised('targets', [4, 3]),
    overTime('Longest to answer', highest(duration, 10)),
    overTime('Most lines', highest(samples, 10))
  ]
};
