import { expect } from 'chai';
import { withDatabase } from '../../../../tests/support/database';
import { pointsOfLength, type BatchBlock } from '../../core/series';
import { range, type Instant } from '../../core/time';
import { badChunks } from './chunks';
import { examine } from './doctor';
import { openStore, type StoreClient } from './open-store';

const start = 1_777_852_800_000; // midnight
const minute = 60_000;
const all = { receivedBefore: (start + 1e9) as Instant, mostPoints: 0 };

describe('a chunk that does not decode', () => {
  const fixture = withDatabase();
  let store: StoreClient;
  const ids: number[] = [];

  before(async () => {
    await fixture.db.rows(
      `insert into accounts (name, provider, endpoint, key_id, secret_sealed, created_at, created_by, history_from) values ('one', 'levante', 'x', 'x', '', 0, 'x', 0)`
    );
    await fixture.db.rows(
      `insert into resources (account_id, provider_id, name, type, service, region, tags, first_seen_at, last_seen_at)
       values (1, 'r', 'r', 'machine', 'machines', 'x', '{}', 0, 0)`
    );
    for (const metric of ['good', 'bad']) {
      const rows = await fixture.db.rows<{ id: number }>(
        `insert into series (account_id, resource_id, metric) select account_id, id, $1 from resources returning id`,
        [metric]
      );
      ids.push(rows[0]!.id);
    }
    store = openStore(fixture.connection);
    await store.ready;
    await store.append(1, 5 as Instant, [blockOf(ids[0]!, 0), blockOf(ids[1]!, 0)]);
    await store.samples.seal(all, start as Instant);
    await fixture.db.rows(`update chunks set bytes = '\\x00ff' where series_id = $1 and resolution_ms = 0`, [ids[1]]);
    await store.samples.forgetDecoded();
  });
  after(() => store.close());

  function blockOf(seriesId: number, from: number): BatchBlock {
    const points = pointsOfLength(10);
    for (let i = 0; i < 10; i++) {
      points.at[i] = start + (from + i) * minute;
      points.sum[i] = points.min[i] = points.max[i] = i;
      points.count[i] = 1;
    }
    return { seriesId, points };
  }
  const lengths = async () =>
    (await store.samples.points(ids, range(start as Instant, (start + 3_600_000) as Instant))).map(
      ({ at }) => at.length
    );

  it('is set aside and told, and stops nothing but itself', async () => {
    expect(await lengths()).to.deep.equal([10, 0]);
    expect(await badChunks(fixture.db)).to.deep.include.members([
      {
        accountId: 1,
        seriesId: ids[1],
        resolution: 0,
        periodFrom: start,
        account: 'one',
        metric: 'bad',
        points: 10,
        reason: (await badChunks(fixture.db))[0]?.reason
      }
    ]);
    const { findings } = await examine(fixture.db);
    expect(findings.map(({ what }) => what).join(' ')).to.match(/did not decode and was set aside with its 10 points/);
  });

  it('does not keep what comes later from being sealed', async () => {
    await fixture.db.rows(`update chunks set bytes = '\\x00' where series_id = $1 and resolution_ms > 0`, [ids[1]]);
    await store.samples.forgetDecoded();
    await store.append(1, 6 as Instant, [blockOf(ids[0]!, 20), blockOf(ids[1]!, 20)]);
    expect(await store.samples.seal(all, start as Instant)).to.equal(1);
    const [journal] = await fixture.db.rows<{ count: number }>('select count(*)::integer as count from journal');
    expect(journal?.count).to.equal(0);
    expect(await lengths()).to.deep.equal([20, 10]);
  });
});
