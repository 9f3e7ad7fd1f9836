import { expect } from 'chai';
import { withDatabase } from '../../../../tests/support/database';
import fc from 'fast-check';
import {
  isOfGrowth,
  needsReadings,
  pointsOfLength,
  statistics,
  type BatchBlock,
  type Statistic
} from '../../core/series';
import { duration, range, type Instant } from '../../core/time';
import { openPool } from '../db/pool';
import { journalAfter, journalSize } from './journal';
import { openStore, type StoreClient } from './open-store';

const step = duration(60_000);
const block = (seriesId: number, minutes: readonly number[], value = 1): BatchBlock => {
  const points = pointsOfLength(minutes.length);
  minutes.forEach((m, i) => {
    points.at[i] = m * step;
    points.sum[i] = points.min[i] = points.max[i] = value + m;
    points.count[i] = 1;
  });
  return { seriesId, points };
};

describe('the store', () => {
  const fixture = withDatabase();
  let store: StoreClient;
  const sums = async (from: StoreClient, seriesId: number, minutes: number) => {
    const { columns } = await from.samples.frame(
      [seriesId],
      range(0 as Instant, (minutes * step) as Instant),
      step,
      'sum'
    );
    return [...columns[0]!.values];
  };
  const append = (from: StoreClient, ...blocks: BatchBlock[]) => from.append(1, 5 as Instant, blocks);

  before(async () => {
    store = openStore(fixture.connection);
    await store.ready;
  });
  after(() => store.close());

  it('gives back what was appended, gaps as gaps', async () => {
    expect(await append(store, block(1, [0, 1, 3]), block(2, [1]))).to.deep.equal({ written: 4, newest: 3 * step });
    expect(await sums(store, 1, 5)).to.deep.equal([1, 2, NaN, 4, NaN]);
    expect(await store.samples.newest([1, 2, 99])).to.deep.equal([3 * step, step, null]);
  });

  it('writes what is known already to nowhere, and a changed value over the old', async () => {
    const { batches } = await journalSize(fixture.db);
    expect((await append(store, block(1, [0, 1, 3]))).written).to.equal(0);
    expect((await journalSize(fixture.db)).batches).to.equal(batches);
    expect((await append(store, block(1, [1, 2], 10))).written).to.equal(2);
    expect(await sums(store, 1, 4)).to.deep.equal([1, 11, 12, 4]);
  });

  it('is the same in a second process that reads the journal, and keeps up with it', async () => {
    const other = openStore(fixture.connection);
    await other.ready;
    expect(await sums(other, 1, 4)).to.deep.equal(await sums(store, 1, 4));
    await append(other, block(1, [4], 100));
    expect(await sums(store, 1, 5)).to.deep.equal([1, 11, 12, 4, 104]);
    await append(store, block(1, [5], 100));
    expect(await sums(other, 1, 6)).to.deep.equal([1, 11, 12, 4, 104, 105]);
    await other.close();
  });

  it('reads a journal larger than one helping', async () => {
    const big = Array.from({ length: 60_000 }, (_, i) => i);
    for (let seriesId = 10; seriesId < 15; seriesId++) await append(store, block(seriesId, big));
    const db = openPool(fixture.connection, 1);
    expect((await journalAfter(db, 0)).batches.length).to.be.below((await journalSize(db)).batches);
    await db.close();
    const other = openStore(fixture.connection);
    await other.ready;
    expect(await other.samples.newest([10, 14])).to.deep.equal([59_999 * step, 59_999 * step]);
    expect((await other.samples.progress()).ready).to.equal(true);
    await other.close();
  });

  it('seals its journal into chunks and rollups, and answers the same, also in a process that had read the journal before', async () => {
    const other = openStore(fixture.connection);
    await other.ready;
    await append(store, block(20, [0, 1, 2, 3, 4, 5, 100, 1441, 1442]));
    await append(other, block(20, [4], 500));
    const before = await sums(store, 20, 1500);
    const all = { receivedBefore: 10 as Instant, mostPoints: 0 };
    expect(await store.samples.seal(all, 9 as Instant)).to.be.above(1);
    expect((await journalSize(fixture.db)).batches).to.equal(0);
    expect(before[4]).to.equal(504);
    expect(await sums(store, 20, 1500)).to.deep.equal(before);
    expect(await sums(other, 20, 1500)).to.deep.equal(before);
    expect(await store.samples.newest([20, 10])).to.deep.equal([1442 * step, 59_999 * step]);
    expect((await append(other, block(20, [1441, 1442, 1443]))).written, 'sealed points again').to.equal(1);
    expect((await append(store, block(20, [2], 7))).written, 'a sealed point with another value').to.equal(1);
    expect((await sums(other, 20, 4))[2]).to.equal(9);
    expect((await append(store, block(20, [2]))).written, 'back to the sealed value').to.equal(1);
    expect((await sums(store, 20, 4))[2]).to.equal(3);
    const kinds = await fixture.db.rows<{ resolution: number; chunks: number }>(
      'select resolution_ms as resolution, count(*)::integer as chunks from chunks where series_id = 20 group by 1 order by 1'
    );
    expect(kinds.map(({ resolution, chunks }) => [resolution, chunks])).to.deep.equal([
      [0, 2],
      [300_000, 1],
      [3_600_000, 1]
    ]);
    await other.close();
  });

  it('answers like a plain map of instants, whatever was appended, sealed and asked in which order', async () => {
    const value = fc.integer({ min: -1000, max: 1000 });
    const write = fc.record({
      kind: fc.constant('write' as const),
      from: fc.nat(3000),
      values: fc.array(value, { minLength: 1, maxLength: 200 })
    });
    const sealing = fc.record({ kind: fc.constant('seal' as const), keep: fc.constantFrom(0, 100, 400) });
    const ask = fc.record({
      kind: fc.constant('ask' as const),
      from: fc.nat(3000),
      length: fc.integer({ min: 1, max: 2000 }),
      step: fc.constantFrom(1, 5, 30, 60, 180),
      statistic: fc.constantFrom(
        ...statistics.filter((statistic) => !needsReadings(statistic) && !isOfGrowth(statistic))
      )
    });
    let seriesId = 1000;
    await fc.assert(
      fc.asyncProperty(fc.array(fc.oneof(write, sealing, ask, ask), { minLength: 5, maxLength: 25 }), async (steps) => {
        const mine = seriesId++;
        const known = new Map<number, number>();
        for (const one of steps)
          if (one.kind === 'write') {
            const points = pointsOfLength(one.values.length);
            one.values.forEach((number, i) => {
              known.set(one.from + i, number);
              points.at[i] = (one.from + i) * step;
              points.sum[i] = number;
              points.count[i] = 2;
              points.min[i] = number - 1;
              points.max[i] = number + 1;
            });
            await append(store, { seriesId: mine, points });
          } else if (one.kind === 'seal')
            await store.samples.seal({ receivedBefore: 0 as Instant, mostPoints: one.keep }, 9 as Instant);
          else {
            const length = duration(one.step * step);
            const span = range((one.from * step) as Instant, ((one.from + one.length) * step) as Instant);
            const { grid, columns } = await store.samples.frame([mine], span, length, one.statistic);
            const expected = Array.from({ length: grid.count }, (_, cell) => {
              const first = (grid.start + cell * length) / step;
              const within = [...known]
                .filter(([minute]) => minute >= first && minute < first + one.step)
                .sort(([a], [b]) => a - b);
              return plainly(
                within.map(([, number]) => number),
                one.statistic
              );
            });
            expect([...columns[0]!.values]).to.deep.equal(expected);
          }
      }),
      { numRuns: 25 }
    );
  }).timeout(300_000);

  it('says why a grid is refused, across the thread', async () => {
    const error = await store.samples
      .frame([1], range(0 as Instant, (300_000 * step) as Instant), step, 'sum')
      .catch((refused: unknown) => refused);
    expect(String(error)).to.contain('the shortest step is');
  });
});

/** The slow and obvious answer for points of count 2 around a number. */
function plainly(numbers: readonly number[], statistic: Statistic): number {
  if (numbers.length === 0) return NaN;
  const sum = numbers.reduce((total, number) => total + number, 0);
  const answers: Partial<Record<Statistic, number>> = {
    avg: sum / (2 * numbers.length),
    sum,
    count: 2 * numbers.length,
    min: Math.min(...numbers) - 1,
    max: Math.max(...numbers) + 1,
    last: (numbers.at(-1) as number) / 2
  };
  return answers[statistic] as number;
}
