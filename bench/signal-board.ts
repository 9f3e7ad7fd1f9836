import { pointsOfLength } from '../src/lib/core/series';
import { signalSchema, type Signal, type Source } from '../src/lib/core/signal';
import { duration, instant, range, type Instant } from '../src/lib/core/time';
import type { Database } from '../src/lib/server/db/pool';
import type { StoreClient } from '../src/lib/server/store/open-store';
import { startQueryThread, type EvaluatorClient } from '../src/lib/server/query/query-thread';
import type { SignalWork } from '../src/lib/server/query/signals/work';
import { onEachHome, type Home } from './homes';
import { inTurn, type Measurement } from './measurement';

const minute = 60_000;
const day = 86_400_000;
const regions = 5;

/** A board of 24 signals, each of 50 series over a day at one-minute steps, averaged by region. */
export const signalBoard = (): Promise<Measurement[]> =>
  onEachHome((home) =>
    measure(home, {
      name: 'signal.board',
      signals: 24,
      series: 50,
      length: day,
      step: minute,
      compared: 'sql',
      what: '24 signals of 50 series each over a day at one-minute steps, averaged by region; both warm: chunks stay decoded, tables in memory'
    })
  );

/** A month of 200 series at six-hour steps, against the same without rollups. */
export const signalMonth = (): Promise<Measurement[]> =>
  onEachHome((home) =>
    measure(home, {
      name: 'signal.month',
      signals: 1,
      series: 200,
      length: 30 * day,
      step: 6 * 3_600_000,
      compared: 'samples',
      what: '200 series over 30 days of minutes at six-hour steps, the highest of each region; chunks decoded anew each round'
    })
  );

interface Case {
  readonly name: string;
  readonly signals: number;
  readonly series: number;
  readonly length: number;
  readonly step: number;
  readonly compared: 'sql' | 'samples';
  readonly what: string;
}

async function measure(
  home: Home,
  { name, signals, series, length, step, compared, what }: Case
): Promise<Measurement> {
  const { db } = home;
  const { store, evaluator } = startQueryThread(home.connection);
  await store.ready;
  await db.rows(
    'create table plain (series_id integer, at bigint, sum double precision, count double precision, primary key (series_id, at))'
  );
  await db.rows('create table plain_series (series_id integer primary key, signal integer, region text)');
  await fill(store, db, signals * series, length, compared === 'sql');
  await db.rows(
    "insert into plain_series select id, (id - 1) / $1, 'r' || (id % $2) from generate_series(1, $3::integer) as id",
    [series, regions, signals * series]
  );
  await db.rows('analyze plain');
  await db.rows('analyze plain_series');
  const statistic = compared === 'sql' ? 'avg' : 'max';
  const signal = signalSchema.parse({
    version: 2,
    step: 'PT1M',
    rows: [{ name: 'a', metric: 'm', statistic, combine: { statistic, by: ['region'] } }]
  });
  const span = range(instant(0), instant(length));
  const works = Array.from({ length: signals }, (_, at) => workOf(signal, at * series + 1, series));
  const ours = async (): Promise<unknown> => {
    if (compared === 'samples') await store.samples.forgetDecoded();
    return evaluator.evaluateAll(works.map((work) => ({ work, span, step: duration(step) })));
  };
  const theirs = async (): Promise<unknown> => {
    if (compared === 'sql') return Promise.all(works.map((_, at) => inSql(db, at, step, length)));
    await store.samples.forgetDecoded();
    // The same cells from samples: the last value is not kept by rollups, so that it is read of every sample.
    const last = signalSchema.parse({ ...signal, rows: [{ ...signal.rows[0], statistic: 'last' }] });
    return evaluator.evaluate({ ...(works[0] as SignalWork), signal: last }, span, duration(step));
  };
  if (compared === 'sql') await compareFirst(evaluator, db, works[0] as SignalWork, step, length);
  const seconds = await inTurn(3, ours, theirs);
  await store.close();
  return {
    name,
    unit: 's',
    better: 'lower',
    ours: seconds.ours,
    theirs: seconds.theirs,
    alternative:
      compared === 'sql'
        ? 'the same in SQL over a table with a row for each sample'
        : 'the same read of samples instead of rollups',
    note: `on ${home.name}: ${what}`
  };
}

const workOf = (signal: Signal, first: number, count: number): SignalWork => ({
  signal,
  notes: [],
  completeUntil: instant(0),
  linesUntil: {},
  sources: {
    a: Array.from({ length: count }, (_, i): Source => ({
      id: first + i,
      labels: { region: `r${(first + i) % regions}` },
      kind: 'gauge',
      unit: '1',
      samplingMs: minute
    }))
  }
});

const inSql = (db: Database, signal: number, step: number, length: number) =>
  db.rows<{ region: string; cell: number; avg: number }>(
    `select region, at / $1 as cell, sum(sum) / sum(count) as avg
     from plain
     join plain_series using (series_id)
     where signal = $2 and at >= 0 and at < $3
     group by region, at / $1
     order by region, cell`,
    [step, signal, length]
  );

async function compareFirst(
  evaluator: EvaluatorClient,
  db: Database,
  work: SignalWork,
  step: number,
  length: number
): Promise<void> {
  const worked = await evaluator.evaluate(work, range(instant(0), instant(length)), duration(step));
  if (worked.kind === 'fault') throw new Error(worked.problem.message);
  for (const { region, cell, avg } of (await inSql(db, 0, step, length)).slice(0, 2000)) {
    const column = worked.rows[0]?.columns.find(({ labels }) => labels['region'] === region);
    if (!(Math.abs((column?.values[cell] ?? NaN) - avg) < 1e-9))
      throw new Error(`signal.board: ${region}, cell ${cell} differs`);
  }
}

async function fill(store: StoreClient, db: Database, series: number, length: number, plainly: boolean): Promise<void> {
  const count = length / minute;
  for (let seriesId = 1; seriesId <= series; seriesId++) {
    const points = pointsOfLength(count);
    for (let i = 0; i < count; i++) {
      points.at[i] = i * minute;
      points.sum[i] = points.min[i] = points.max[i] = ((i * 7919 * seriesId) % 10_007) / 100;
      points.count[i] = 1;
    }
    await store.append(1, 0 as Instant, [{ seriesId, points }]);
    if (plainly)
      for (let first = 0; first < count; first += 20_000)
        await db.rows(
          'insert into plain select $1, at, sum, 1 from unnest($2::bigint[], $3::double precision[]) as given (at, sum)',
          [seriesId, [...points.at.subarray(first, first + 20_000)], [...points.sum.subarray(first, first + 20_000)]]
        );
    if (seriesId % 20 === 0) await store.samples.seal({ receivedBefore: 1 as Instant, mostPoints: 0 }, 1 as Instant);
  }
  await store.samples.seal({ receivedBefore: 1 as Instant, mostPoints: 0 }, 1 as Instant);
}
