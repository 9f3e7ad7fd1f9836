import { expect } from 'chai';
import { connectMachines, liveMinutes, processorAlarm, withHouse } from '../../../../../tests/support/bussola';
import { refusalOf } from '../../../../../tests/support/refusal';
import { until } from '../../../../../tests/support/until';
import { accountById, markRemoved, removedAccounts } from '../../inventory/accounts';
import { orphans } from '../../process/orphans';
import { rowsOfSamples } from '../../store/erase';
import { eraseRemoved, removeAccount, stopErasing } from './remove-account';

describe('removing an account with its history', () => {
  const house = withHouse();
  const server = () => house.bussola;
  const inList = async (id: number) => (await removedAccounts(server().db)).find((one) => one.id === id);

  /** Rows of samples as many years would make them; what they hold is nothing to erasing. */
  const manyChunks = (accountId: number, count: number) =>
    server().db.rows(
      `insert into chunks (account_id, series_id, resolution_ms, period_from, from_at, to_at, points, bytes, changed_at)
       select $1, 1, 3600000, i, i, i + 1, 1, '\\x00', 0 from generate_series(1, $2) as i`,
      [accountId, count]
    );

  it('erases piece by piece, says how far it is, and stops where somebody wants the rest', async () => {
    const accountId = await connectMachines(house);
    const alarm = await processorAlarm(house, 'booking-web-2');
    await liveMinutes(house, accountId, 2);
    await manyChunks(accountId, 9000);
    const { db } = server();
    const before = await rowsOfSamples(db, accountId);
    expect(before).to.be.above(9000);
    // Erased by this call alone: the engine’s own begins with the next heartbeat.
    await db.transaction((within) =>
      markRemoved(within, accountId, { erase: true, at: house.clock.now(), by: 'Kaja' })
    );
    let pieces = 0;
    const shares: number[] = [];
    const samples = {
      erase: (id: number) => server().store.samples.erase(id),
      eraseSome: async (id: number) => {
        shares.push((await inList(id))?.erased ?? -1);
        if (++pieces === 3) await stopErasing(server(), id);
        return server().store.samples.eraseSome(id);
      }
    };
    const parts = { db, changes: server().changes, store: { samples } } as unknown as Parameters<
      typeof eraseRemoved
    >[0];
    expect(await eraseRemoved(parts)).to.equal(0);
    expect(pieces).to.equal(3);
    expect(shares[0]).to.equal(0);
    expect(shares[2]).to.be.within(0.01, 0.9);
    expect(shares).to.deep.equal([...shares].sort((a, b) => a - b));
    const left = await rowsOfSamples(db, accountId);
    expect(left, 'what is left stays').to.be.within(1, before - 1);
    expect(await inList(accountId)).to.include({ erase: false, erased: null });
    expect((await refusalOf(stopErasing(server(), accountId)))?.code).to.equal('not-found');
    expect(await rowsOfSamples(db, accountId)).to.equal(left);

    await removeAccount(server(), accountId, { erase: true, by: 'Kaja' });
    await until('all of it is erased', async () => {
      house.clock.pass(0.2);
      return (await inList(accountId)) === undefined;
    });
    expect(await accountById(db, accountId)).to.equal(null);
    await until('nothing is left of it', async () => (await rowsOfSamples(db, accountId)) === 0);
    expect(await orphans(db)).to.deep.equal([]);
    const [row] = await db.rows('select from alarms where id = $1', [alarm.id]);
    expect(row, 'alarms that named it stay').to.not.equal(undefined);
  }).timeout(60_000);

  it('nothing of which is there is found by whoever looks a data folder through', async () => {
    const { db } = server();
    await db.rows(
      `insert into series_spans (account_id, series_id, oldest_at, newest_at) values (4711, 1, 0, 1), (4711, 2, 0, 1)`
    );
    await db.rows(
      `insert into summary_plans (definition, changed_at, changed_by)
       values ('{"version":1,"name":"Lost","enabled":true,"kind":"week","at":"08:00","zone":"UTC","channels":[98]}', 0, 'Kaja')`
    );
    expect(await orphans(db)).to.deep.equal([
      '2 rows of series_spans belong to account 4711, which is not there.',
      'The summary “Lost” names channel 98, which is not there.'
    ]);
    await db.rows('delete from series_spans where account_id = 4711');
    await db.rows('delete from summary_plans');
    expect(await orphans(db)).to.deep.equal([]);
  });
});
