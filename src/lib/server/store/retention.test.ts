import { expect } from 'chai';
import { withDatabase } from '../../../../tests/support/database';
import { usualPlan } from '../../core/intake';
import { pointsOfLength, slicePoints, type BatchBlock } from '../../core/series';
import { duration, range, type Instant } from '../../core/time';
import { savePlan } from '../intake/plan/plans';
import { examine } from './doctor';
import { openStore, type StoreClient } from './open-store';
import { storedSizes, removalsDue, retain } from './retention';

const day = 86_400_000;
const minute = 60_000;
const start = Math.floor(1_777_881_600_000 / (60 * day)) * 60 * day; // the first day of a period of every resolution
const all = { receivedBefore: (start + 900 * day) as Instant, mostPoints: 0 };

describe('keeping and looking through', () => {
  const fixture = withDatabase();
  let store: StoreClient;
  let seriesId: number;

  before(async () => {
    await fixture.db.rows(
      `insert into accounts (name, provider, endpoint, key_id, secret_sealed, created_at, created_by, history_from) values ('one', 'levante', 'x', 'x', '', 0, 'x', 0)`
    );
    await fixture.db.rows(
      `insert into resources (account_id, provider_id, name, type, service, region, tags, first_seen_at, last_seen_at)
       values (1, 'r', 'r', 'machine', 'machines', 'x', '{}', 0, 0)`
    );
    await fixture.db.rows(
      `insert into series (account_id, resource_id, metric) select account_id, id, 'm' from resources`
    );
    [{ id: seriesId }] = (await fixture.db.rows<{ id: number }>('select id from series')) as [{ id: number }];
    store = openStore(fixture.connection);
    await store.ready;
    await store.append(
      1,
      5 as Instant,
      [days(0, 3), days(20, 2)].map(({ points }) => ({ seriesId, points }))
    );
    await store.samples.seal(all, start as Instant);
  });
  after(() => store.close());

  /** A point every ten minutes for some days. */
  function days(first: number, count: number): BatchBlock {
    const points = pointsOfLength(count * 144);
    for (let i = 0; i < count * 144; i++) {
      points.at[i] = start + first * day + i * 10 * minute;
      points.sum[i] = points.min[i] = points.max[i] = (i * 31) % 97;
      points.count[i] = 1;
    }
    return { seriesId, points };
  }
  const damage = (statement: string) =>
    fixture.db
      .transaction(async (within) => {
        await within.rows(statement);
        const found = await examine({ ...fixture.db, rows: (statement, values) => within.rows(statement, values) });
        await within.rows('savepoint found');
        throw Object.assign(new Error('undo'), { found });
      })
      .catch((error: Error & { found?: Awaited<ReturnType<typeof examine>> }) => {
        if (!error.found) throw error;
        return error.found.findings.map(({ kind }) => kind);
      });

  it('finds nothing wrong in a store as it should be', async () => {
    const { findings, chunks, points } = await examine(fixture.db);
    expect([findings, chunks, points]).to.deep.equal([[], 5 + 2 + 1, 5 * 144]);
  });

  it('finds what was damaged: bytes, lengths, rollups, spans, orphans', async () => {
    expect(
      await damage(
        `update chunks set bytes = substring(bytes for 8) where resolution_ms = 0 and period_from = ${start}`
      )
    ).to.include('chunk');
    expect(await damage('update chunks set points = points + 1 where resolution_ms = 300000')).to.include('chunk');
    expect(await damage('delete from chunks where resolution_ms = 3600000')).to.include('rollup');
    expect(
      await damage(
        `update chunks set bytes = (select bytes from chunks where resolution_ms = 0 and period_from = ${start + day}) where resolution_ms = 0 and period_from = ${start}`
      )
    ).to.include.members(['chunk', 'rollup']);
    expect(await damage('update series_spans set newest_at = oldest_at')).to.deep.equal(['span']);
    expect(await damage('delete from series')).to.include('orphan');
    expect(
      await damage(
        `insert into journal (account_id, from_at, to_at, points, received_at, batch) values (1, 0, 1, 1, 0, '\\\\x00')`
      )
    ).to.deep.equal(['journal']);
    expect((await examine(fixture.db)).findings).to.deep.equal([]);
  });

  it('removes whole periods once they are older than the plan keeps them, samples before rollups, and says so before', async () => {
    const now = (start + 30 * day) as Instant;
    const due = await removalsDue(fixture.db, now);
    expect(due.map(({ service, resolution, chunks, points }) => [service, resolution, chunks, points])).to.deep.equal([
      ['machines', 0, 3, 3 * 144]
    ]);
    const supposed = { accountId: 1, service: 'machines', keep: { ...usualPlan.keep, fiveMinuteDays: 1 } };
    expect(
      (await removalsDue(fixture.db, now, supposed)).map(({ resolution, chunks }) => [resolution, chunks])
    ).to.deep.equal([
      [0, 3],
      [300_000, 2]
    ]);
    expect(await removalsDue(fixture.db, now, { ...supposed, service: 'databases' }), 'another service').to.deep.equal(
      []
    );
    expect(await retain(fixture.db, now)).to.equal(3);
    expect(await removalsDue(fixture.db, now)).to.deep.equal([]);
    expect((await storedSizes(fixture.db)).map(({ resolution, chunks }) => [resolution, chunks])).to.deep.equal([
      [0, 2],
      [300_000, 2],
      [3_600_000, 1]
    ]);
    expect((await examine(fixture.db)).findings).to.deep.equal([]);
    await store.samples.forgetDecoded();
    const [points] = await store.samples.points([seriesId], range(start as Instant, (start + day) as Instant));
    expect(points?.at.length).to.equal(0);
    await savePlan(
      fixture.db,
      1,
      'machines',
      { ...usualPlan, keep: { ...usualPlan.keep, sampleDays: 1, fiveMinuteDays: 1 } },
      'Kaja Tamm',
      now
    );
    expect((await removalsDue(fixture.db, now)).map(({ resolution, chunks }) => [resolution, chunks])).to.deep.equal([
      [0, 2],
      [300_000, 2]
    ]);
  });

  it('shows the rollups of what is removed also while something late of long ago waits to be sealed', async () => {
    const [whole, late] = [range(start as Instant, (start + 22 * day) as Instant), start + 300_000];
    const filled = async () => {
      const { columns } = await store.samples.frame([seriesId], whole, duration(day), 'max');
      return [...columns[0]!.values].flatMap((value, index) => (Number.isNaN(value) ? [] : [index]));
    };
    expect(await filled()).to.deep.equal([0, 1, 2, 20, 21]);
    const points = { ...slicePoints(days(0, 1).points, start, start + 1), at: Float64Array.of(late) };
    await store.append(1, (start + 30 * day) as Instant, [{ seriesId, points }]);
    expect(await filled()).to.deep.equal([0, 1, 2, 20, 21]);
    await store.samples.seal({ ...all, receivedBefore: (start + 31 * day) as Instant }, (start + 31 * day) as Instant);
    expect(await filled()).to.deep.equal([0, 1, 2, 20, 21]);
  });
});
