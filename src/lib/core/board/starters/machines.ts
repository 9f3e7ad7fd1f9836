import {
  added,
  heat,
  highest,
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

const processor = metric('machine.processor.use');
const memory = metric('machine.memory.use');

/** Machines as their host sees them, and as an agent inside sees them. */
export const machines: Starter = {
  about: 'Every machine: what its host measures, and what an agent inside reports where one is.',
  parts: [
    overTime('Processor use', processor, [8, 4]),
    number('Busiest machine now', highest(processor, 1), [4, 2], { earlier: 'PT1H' }),
    raised('machines'),
    snapshot('Every machine now', [
      ['Processor', processor, 'shade'],
      ['Memory', memory, 'shade'],
      ['Network in', metric('machine.network.in'), 'number'],
      ['Network out', metric('machine.network.out'), 'number'],
      ['Disk writes', metric('machine.disk.write'), 'number'],
      ['File system', metric('machine.filesystem.use'), 'bar'],
      ['Processor', processor, 'course']
    ]),
    ...under(
      'Host',
      overTime('Network out', metric('machine.network.out')),
      overTime('Network in', metric('machine.network.in')),
      overTime('Disk writes', metric('machine.disk.write')),
      heat('Processor, all machines', processor)
    ),
    ...under(
      'Guest',
      overTime('Memory use', memory),
      overTime('File system use', metric('machine.filesystem.use')),
      overTime('Load, 1 minute', metric('machine.load.minute')),
      silent('machines', 15, [6, 4])
    )
  ]
};

const running = 'machine.group.running';
const wanted = 'machine.group.wanted';

/** Groups of machines that scale. */
export const machineGroups: Starter = {
  about: 'How many machines each group runs against how many it wants.',
  parts: [
    overTime(
      'Running and wanted',
      signal([row('running', running), row('wanted', wanted)], { show: ['running', 'wanted'] }),
      [8, 4]
    ),
    number('Machines running', metric(running, { combine: added() }), [4, 2], { earlier: 'P7D' }),
    raised('machine-groups'),
    snapshot(
      'Every group now',
      [
        ['Running', metric(running), 'bar'],
        ['Wanted', metric(wanted), 'number'],
        ['Running', metric(running), 'course']
      ],
      { size: [6, 4] }
    ),
    overTime(
      'Wanted and not there',
      signal([
        row('wanted', wanted, { combine: added('resource') }),
        row('running', running, { combine: added('resource') }),
        { name: 'missing', formula: 'wanted - running' }
      ]),
      [6, 4],
      'bars'
    )
  ]
};
