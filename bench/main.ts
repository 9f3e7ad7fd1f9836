import { intakeJournal } from './intake-journal';
import { lineOf, type Measurement } from './measurement';
import { seriesAlign } from './series-align';
import { webStall } from './web-stall';

const measurements: Readonly<Record<string, () => Promise<Measurement>>> = {
  'intake.journal': intakeJournal,
  'series.align': seriesAlign,
  'web.stall': webStall
};

const wanted = process.argv.slice(2);
const unknown = wanted.filter((name) => !(name in measurements));
if (unknown.length > 0) {
  console.error(`No measurement named ${unknown.join(', ')}. There are: ${Object.keys(measurements).join(', ')}.`);
  process.exit(1);
}
for (const name of wanted.length > 0 ? wanted : Object.keys(measurements))
  console.log(lineOf(await (measurements[name] as () => Promise<Measurement>)()));
