import { instant } from '../src/lib/core/time';
import { CatalogueSearch, type CatalogueEntry } from '../src/lib/core/catalogue';
import { onEachHome, type Home } from './homes';
import { inTurn, type Measurement } from './measurement';

const metrics = 2500;
const seriesOfEach = 20;
const words = [
  'processor',
  'memory',
  'disk',
  'network',
  'queue',
  'request',
  'response',
  'cache',
  'replica',
  'connection'
];
const things = ['use', 'depth', 'age', 'errors', 'writes', 'reads', 'latency', 'size', 'count', 'waiting'];
const typed = 'respones lat';

/** Milliseconds a keystroke to search the catalogue of 50,000 series, against a `like` query for each word. */
export const catalogueSearch = (): Promise<Measurement[]> => onEachHome(search);

async function search({ name, db }: Home): Promise<Measurement> {
  const entries = Array.from({ length: metrics }, (_, i): CatalogueEntry => {
    const [word = '', thing = ''] = [words[i % 10], things[Math.floor(i / 10) % 10]];
    return {
      name: `service${i % 25}.${word}.${thing}.${i}`,
      title: `${word} ${thing} ${i}`,
      description: `How the ${thing} of the ${word} does, as part ${i} tells.`,
      unit: '1',
      kind: 'gauge',
      shape: 'single',
      service: `service${i % 25}`,
      resourceType: `type${i % 40}`,
      samplingMs: 60_000,
      delayMs: 0,
      series: seriesOfEach,
      accounts: ['a'],
      providers: ['p'],
      regions: ['r'],
      labels: { part: Array.from({ length: seriesOfEach }, (_, which) => `part-${which}`) },
      newest: instant(0),
      state: 'collected'
    };
  });
  const catalogue = await CatalogueSearch.of(entries);
  await db.rows('create table listed (metric text, series integer, text text)');
  await db.rows(
    `insert into listed
     select metric, series, text || ' part-' || series
     from unnest($1::text[], $2::text[]) as one (metric, text), generate_series(0, $3::integer) as series`,
    [
      entries.map((entry) => entry.name),
      entries.map(
        ({ title, description, service, resourceType }) => `${title} ${description} ${service} ${resourceType}`
      ),
      seriesOfEach - 1
    ]
  );
  const keystrokes = Array.from(typed, (_, i) => typed.slice(0, i + 1));
  if (catalogue.find({ text: 'respones lat' }).length === 0) throw new Error('catalogue.search: found nothing');
  const ours = () => {
    for (const text of keystrokes) catalogue.find({ text });
  };
  const theirs = async () => {
    for (const text of keystrokes) {
      const parts = text.split(' ').filter(Boolean);
      await db.rows(
        `select metric, count(*) from listed where ${parts.map((_, i) => `text ilike $${i + 1}`).join(' and ')} group by metric order by metric limit 60`,
        parts.map((part) => `%${part}%`)
      );
    }
  };
  const seconds = await inTurn(5, ours, theirs);
  return {
    name: 'catalogue.search',
    unit: 'ms a keystroke',
    better: 'lower',
    ours: (seconds.ours * 1000) / keystrokes.length,
    theirs: (seconds.theirs * 1000) / keystrokes.length,
    alternative: 'an ilike for each word over a row for each series, which finds nothing mistyped',
    note: `on ${name}: ${metrics * seriesOfEach} series of ${metrics} metrics, typing “${typed}”; the goal is 50 ms`
  };
}
