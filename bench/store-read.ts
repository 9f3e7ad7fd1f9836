import { pointsOfLength } from '../src/lib/core/series';
import { duration, range, type Instant } from '../src/lib/core/time';
import type { Database } from '../src/lib/server/db/pool';
import { openStore } from '../src/lib/server/store/open-store';
import { onEachHome, type Home } from './homes';
import { inTurn, type Measurement } from './measurement';

const seriesCount = 50;
const day = 86_400_000;

/** Fifty series over a day at one-minute steps. */
export const storeReadDay = (): Promise<Measurement[]> =>
  onEachHome((home) => read(home, 'store.read.day', 60_000, day, 60_000, 'a day of minutes at one-minute steps'));

/** Fifty series over thirteen months at steps of a day's quarter. */
export const storeReadYear = (): Promise<Measurement[]> =>
  onEachHome((home) =>
    read(
      home,
      'store.read.year',
      1_800_000,
      396 * day,
      6 * 3_600_000,
      'thirteen months, a point each half hour, at six-hour steps'
    )
  );

async function read(
  home: Home,
  name: string,
  every: number,
  length: number,
  step: number,
  what: string
): Promise<Measurement> {
  const { db } = home;
  await db.rows(
    'create table plain (series_id integer, at bigint, sum double precision, count double precision, primary key (series_id, at))'
  );
  const store = openStore(home.connection);
  await store.ready;
  const count = length / every;
  for (let seriesId = 1; seriesId <= seriesCount; seriesId++) {
    const points = pointsOfLength(count);
    for (let i = 0; i < count; i++) {
      points.at[i] = i * every;
      points.sum[i] = points.min[i] = points.max[i] = ((i * 7919 * seriesId) % 100_003) / 100;
      points.count[i] = 1;
    }
    await store.append(1, 0 as Instant, [{ seriesId, points }]);
    await plainly(db, seriesId, points.at, points.sum);
    if (seriesId % 5 === 0) await store.samples.seal({ receivedBefore: 1 as Instant, mostPoints: 0 }, 1 as Instant);
  }
  await db.rows('analyze plain');
  const ids = Array.from({ length: seriesCount }, (_, i) => i + 1);
  const span = range(0 as Instant, length as Instant);
  const sql = () =>
    db.rows<{ series_id: number; cell: number; avg: number }>(
      'select series_id, at / $1 as cell, sum(sum) / sum(count) as avg from plain where series_id = any($2) and at >= 0 and at < $3 group by 1, 2 order by 1, 2',
      [step, ids, length]
    );
  const frame = async () => {
    await store.samples.forgetDecoded();
    return store.samples.frame(ids, span, duration(step), 'avg');
  };
  const [ours, theirs] = [await frame(), await sql()];
  for (const { series_id: id, cell, avg } of theirs.slice(0, 5000))
    if (Math.abs((ours.columns[id - 1]?.values[cell] ?? NaN) - avg) > 1e-6)
      throw new Error(`${name}: series ${id}, cell ${cell} differs`);
  const seconds = await inTurn(5, frame, sql);
  await store.close();
  return {
    name,
    unit: 'ms',
    better: 'lower',
    ours: seconds.ours * 1000,
    theirs: seconds.theirs * 1000,
    alternative:
      'the same averages by SQL from a row a point, with a primary key on series and instant, in the same database',
    note: `on ${home.name}: ${seriesCount} series over ${what}; nothing kept decoded between rounds`
  };
}

async function plainly(db: Database, seriesId: number, at: Float64Array, sum: Float64Array): Promise<void> {
  for (let first = 0; first < at.length; first += 20_000)
    await db.rows(
      'insert into plain select $1, at, sum, 1 from unnest($2::bigint[], $3::double precision[]) as given (at, sum)',
      [seriesId, [...at.subarray(first, first + 20_000)], [...sum.subarray(first, first + 20_000)]]
    );
}
