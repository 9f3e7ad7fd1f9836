import type { Signal } from '../../signal';
import { metric, number, overTime, raised, row, signal, under, type Starter } from './parts';

const last = (name: string): Signal => metric(name, { statistic: 'max' });
const rate = (name: string): Signal => metric(name, { statistic: 'rate' });

/** How long one took on average: the time of all over their number. */
const each = (work: string): Signal =>
  signal([
    row('time', `bussola.${work}.time`, { statistic: 'increase' }),
    row('count', `bussola.${work}`, { statistic: 'increase' }),
    { name: 'each', formula: 'time / count' }
  ]);

/** How Bussola itself is: what is late, how long it takes, what it takes. */
export const bussola: Starter = {
  about: 'Whether Bussola collects, judges and sends in time, how long its work takes, and how much room is left.',
  parts: [
    number('Intake is late by', last('bussola.intake.lag'), [3, 2]),
    number('Judging is late by', last('bussola.judging.lag'), [3, 2]),
    number('A message waits for', last('bussola.outbox.lag'), [3, 2]),
    number('Free disk space', metric('bussola.disk.free', { statistic: 'min' }), [3, 2]),
    raised('bussola', [4, 3]),
    overTime('Late by', last('bussola.intake.lag'), [8, 3]),
    ...under(
      'Work',
      overTime('Samples stored', rate('bussola.samples')),
      overTime('Queries, each', each('queries')),
      overTime('Requests, each', each('requests')),
      overTime('Statements, each', each('statements')),
      overTime('Pulls, each', each('pulls')),
      overTime('Rounds of judging, each', each('judgings'))
    ),
    ...under(
      'Room',
      overTime('Memory', last('bussola.memory')),
      overTime('Processor', rate('bussola.processor.time')),
      overTime('Longest block of the event loop', last('bussola.loop.block')),
      overTime('Size of the database', last('bussola.database.size'))
    )
  ]
};
