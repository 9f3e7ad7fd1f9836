// Writes the workspace of Corallo Lines into a running Bussola's database, once: node --import tsx demo/seed.ts --data=… --stand-ins=…
import { parseArgs } from 'node:util';
import { fileClock, systemClock } from '../src/lib/server/base/clock';
import { seedDemo } from './seed-demo';

const { values } = parseArgs({
  options: {
    data: { type: 'string' },
    'stand-ins': { type: 'string' },
    days: { type: 'string', default: '14' },
    bare: { type: 'boolean', default: false },
    workspace: { type: 'boolean', default: false },
    'clock-file': { type: 'string' }
  }
});
const { data, 'stand-ins': standIns, bare, workspace } = values;
if (data === undefined || standIns === undefined) throw new Error('seed: give --data and --stand-ins');
await seedDemo({
  ...{ data, standIns, bare, workspace },
  days: Number(values.days),
  databaseUrl: process.env['DATABASE_URL'],
  key: process.env['BUSSOLA_KEY'],
  clock: values['clock-file'] === undefined ? systemClock : fileClock(values['clock-file'])
});
