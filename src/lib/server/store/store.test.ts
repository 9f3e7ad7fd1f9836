import { expect } from 'chai';
import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { createInterface } from 'node:readline';
import { join } from 'node:path';
import { withDatabase, withFolder } from '../../../../tests/support/database';
import { pointsOfLength, type BatchBlock } from '../../core/series';
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
  const held = withDatabase();
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
    store = openStore(held.connection);
    await store.ready;
  });
  after(() => store.close());

  it('gives back what was appended, gaps as gaps', async () => {
    expect(await append(store, block(1, [0, 1, 3]), block(2, [1]))).to.deep.equal({ written: 4, newest: 3 * step });
    expect(await sums(store, 1, 5)).to.deep.equal([1, 2, NaN, 4, NaN]);
    expect(await store.samples.newest([1, 2, 99])).to.deep.equal([3 * step, step, null]);
  });

  it('writes what is known already to nowhere, and a changed value over the old', async () => {
    const { batches } = await journalSize(held.db);
    expect((await append(store, block(1, [0, 1, 3]))).written).to.equal(0);
    expect((await journalSize(held.db)).batches).to.equal(batches);
    expect((await append(store, block(1, [1, 2], 10))).written).to.equal(2);
    expect(await sums(store, 1, 4)).to.deep.equal([1, 11, 12, 4]);
  });

  it('is the same in a second process that reads the journal, and keeps up with it', async () => {
    const other = openStore(held.connection);
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
    const db = openPool(held.connection, 1);
    expect((await journalAfter(db, 0)).length).to.be.below((await journalSize(db)).batches);
    await db.close();
    const other = openStore(held.connection);
    await other.ready;
    expect(await other.samples.newest([10, 14])).to.deep.equal([59_999 * step, 59_999 * step]);
    expect((await other.samples.progress()).ready).to.equal(true);
    await other.close();
  });

  it('says why a grid is refused, across the thread', async () => {
    const error = await store.samples
      .frame([1], range(0 as Instant, (300_000 * step) as Instant), step, 'sum')
      .catch((refused: unknown) => refused);
    expect(String(error)).to.contain('the shortest step is');
  });
});

describe('kill -9 during intake', () => {
  const held = withFolder();

  it('leaves every acknowledged batch in place, ten times', async () => {
    let acknowledged = -1;
    for (let round = 0; round <= 10; round++) {
      const child = spawn(process.execPath, ['--import', 'tsx', 'tests/support/appender.ts', join(held.path, 'data')], {
        stdio: ['ignore', 'pipe', 'inherit']
      });
      const gone = once(child, 'exit');
      let wanted = acknowledged + 5 + round * 3;
      for await (const line of createInterface({ input: child.stdout })) {
        const [word, number, , found] = line.split(' ');
        if (word === 'has') {
          expect(Number(number), `round ${round}`).to.be.at.least(acknowledged + 1);
          expect(Number(found), 'nothing beyond the first gap').to.equal(Number(number));
          wanted = Number(number) + 5 + round * 3;
          if (round === 10) child.kill('SIGKILL');
        } else if (word === 'kept') {
          acknowledged = Number(number);
          if (acknowledged >= wanted) child.kill('SIGKILL');
        }
      }
      await gone;
    }
    expect(acknowledged).to.be.above(100);
  }).timeout(180_000);
});
