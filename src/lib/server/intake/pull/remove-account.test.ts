import { expect } from 'chai';
import { Changes } from '../../base/changes';
import { connectMachines, liveMinutes, processorAlarm, withHouse } from '../../../../../tests/support/bussola';
import { withDatabase } from '../../../../../tests/support/database';
import { refusalOf } from '../../../../../tests/support/refusal';
import { until } from '../../../../../tests/support/until';
import { instant } from '../../../core/time';
import { accountById, insertAccount, markRemoved, removedAccounts } from '../../inventory/accounts';
import { orphans } from '../../doctor/orphans';
import { eraseSome, rowsOfSamples } from '../../store/erase';
import { eraseRemoved, removeAccount, stopErasing } from './remove-account';

describe('erasing what was collected from an account', () => {
  const at = withDatabase();
  const now = instant(1_777_900_000_000);
  const changes = new Changes();

  it('goes piece by piece, says how far it is, stops where somebody wants the rest, and goes on when it is begun again', async () => {
    const { db } = at;
    const context = { db, changes, clock: { now: () => now } };
    const { id } = await insertAccount(db, {
      ...{ name: 'corallo-prod', provider: 'levante', endpoint: 'http://127.0.0.1', keyId: 'k' },
      ...{ sealedSecret: Buffer.alloc(1), createdAt: now, createdBy: 'Kaja', historyFrom: now }
    });
    // As many rows as years make; what they hold is nothing to erasing.
    await db.rows(
      `insert into chunks (account_id, series_id, resolution_ms, period_from, from_at, to_at, points, bytes, changed_at)
       select $1, 1, 3600000, i, i, i + 1, 1, '\\x00', 0 from generate_series(1, 9000) as i`,
      [id]
    );
    await db.rows('insert into series_spans (account_id, series_id, oldest_at, newest_at) values ($1, 1, 0, 1)', [id]);
    expect(await rowsOfSamples(db, id)).to.equal(9001);
    const inList = async () => (await removedAccounts(db)).find((one) => one.id === id);
    const toErase = () => db.transaction((within) => markRemoved(within, id, { erase: true, at: now, by: 'Kaja' }));
    const shares: (number | null | undefined)[] = [];
    let [stopAt, forgotten] = [3, 0];
    const samples = {
      erase: async (account: number) => {
        while ((await eraseSome(db, account)) > 0);
      },
      forgetErased: () => {
        forgotten++;
        return Promise.resolve();
      },
      eraseSome: async (account: number) => {
        shares.push((await inList())?.erased);
        if (shares.length === stopAt) await stopErasing(context, account);
        return eraseSome(db, account);
      }
    };
    const parts = { db, changes, store: { samples } } as unknown as Parameters<typeof eraseRemoved>[0];
    await toErase();
    expect(await eraseRemoved(parts)).to.equal(0);
    expect(shares.map((share) => Math.round((share ?? NaN) * 9001))).to.deep.equal([0, 2000, 4000]);
    expect(await rowsOfSamples(db, id), 'what is left stays').to.equal(3001);
    expect(forgotten, 'nobody reads what is gone').to.equal(1);
    expect(await inList()).to.include({ erase: false, erased: null });
    expect((await refusalOf(stopErasing(context, id)))?.code).to.equal('not-found');
    expect(await eraseRemoved(parts), 'nothing is to be erased').to.equal(0);
    expect(await rowsOfSamples(db, id)).to.equal(3001);
    stopAt = -1;
    await toErase();
    expect(await eraseRemoved(parts)).to.equal(1);
    expect([await inList(), await rowsOfSamples(db, id)]).to.deep.equal([undefined, 0]);
    expect(await orphans(db)).to.deep.equal([]);
  });
});

describe('removing an account with its history', () => {
  const house = withHouse();
  const server = () => house.bussola;

  it('leaves nothing of it but alarms that named it, incidents and messages', async () => {
    const accountId = await connectMachines(house);
    const alarm = await processorAlarm(house, 'booking-web-2');
    await liveMinutes(house, accountId, 2);
    const { db } = server();
    expect(await rowsOfSamples(db, accountId)).to.be.above(0);
    await removeAccount(server(), accountId, { erase: true, by: 'Kaja' });
    await until('all of it is erased', async () => {
      house.clock.pass(0.2);
      return (await db.rows('select from accounts where id = $1', [accountId])).length === 0;
    });
    expect(await accountById(db, accountId)).to.equal(null);
    await until('nothing is left of it', async () => (await rowsOfSamples(db, accountId)) === 0);
    expect(await orphans(db)).to.deep.equal([]);
    expect(await db.rows('select from alarms where id = $1', [alarm.id])).to.have.length(1);
  }).timeout(180_000);

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
