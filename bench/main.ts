import { alarmCatchup, alarmRehearse, alarmTick } from './alarms';
import { bandAccuracy, bandFit } from './band';
import { costMonth } from './cost';
import { catalogueSearch } from './catalogue-search';
import { intakeJournal } from './intake-journal';
import { intakePull } from './intake-pull';
import { logsBytes, logsIntake, logsShapes } from './logs';
import { logsFollow } from './logs-follow';
import { logsSearch } from './logs-search';
import { objectiveYear } from './objective';
import { lineOf, type Measurement } from './measurement';
import { processMemory } from './process-memory';
import { scrapeTargets } from './scrape-targets';
import { seriesAlign } from './series-align';
import { signalBoard, signalMonth } from './signal-board';
import { signalPercentile } from './signal-percentile';
import { storeBytes, storeDecode } from './store-codec';
import { storeReadDay, storeReadYear } from './store-read';
import { uiBoard, uiRefresh } from './ui-board';
import { uiPicker } from './ui-picker';
import { uiWhileFilling } from './ui-while-filling';
import { uiYear } from './ui-year';
import { webStall } from './web-stall';

const measurements: Readonly<Record<string, () => Measurement | Measurement[] | Promise<Measurement | Measurement[]>>> =
  {
    'intake.journal': intakeJournal,
    'intake.pull': intakePull,
    'store.bytes': storeBytes,
    'store.decode': storeDecode,
    'store.read.day': storeReadDay,
    'store.read.year': storeReadYear,
    'process.memory': processMemory,
    'alarm.tick': alarmTick,
    'alarm.rehearse': alarmRehearse,
    'alarm.catchup': alarmCatchup,
    'band.accuracy': bandAccuracy,
    'band.fit': bandFit,
    'series.align': seriesAlign,
    'signal.board': signalBoard,
    'signal.percentile': signalPercentile,
    'signal.month': signalMonth,
    'catalogue.search': catalogueSearch,
    'cost.month': costMonth,
    'objective.year': objectiveYear,
    'logs.intake': logsIntake,
    'logs.bytes': logsBytes,
    'logs.search.rare': () => logsSearch('logs.search.rare'),
    'logs.search.common': () => logsSearch('logs.search.common'),
    'logs.shapes': logsShapes,
    'logs.follow': logsFollow,
    'scrape.targets': scrapeTargets,
    'ui.picker': uiPicker,
    'web.stall': webStall,
    'ui.board': uiBoard,
    'ui.refresh': uiRefresh,
    'ui.while-filling': uiWhileFilling,
    'ui.year': uiYear
  };

const wanted = process.argv.slice(2);
const unknown = wanted.filter((name) => !(name in measurements));
if (unknown.length > 0) {
  console.error(`No measurement named ${unknown.join(', ')}. There are: ${Object.keys(measurements).join(', ')}.`);
  process.exit(1);
}
for (const name of wanted.length > 0 ? wanted : Object.keys(measurements)) {
  const measure = measurements[name];
  for (const measurement of [(await measure?.()) ?? []].flat()) console.log(lineOf(measurement));
}
