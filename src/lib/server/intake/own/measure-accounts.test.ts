import { expect } from 'chai';
import { plainDetails, rule, threshold } from '../../../../../tests/support/alarm';
import {
  connect,
  connectMachines,
  incidentsOfAlarm,
  liveMinutes,
  processorAlarm,
  withHouse
} from '../../../../../tests/support/bussola';
import { until } from '../../../../../tests/support/until';
import { plainSignal } from '../../../core/signal';
import { insertAlarm, seriesStates, type Alarm } from '../../alarms/alarms';
import { listAlarms } from '../../alarms/list';
import { allAccounts } from '../../inventory/accounts';
import { darkAccounts } from './dark-accounts';

describe('accounts, as Bussola measures them', () => {
  const house = withHouse();
  let machines: number;

  const watching = async (name: string, metric: string, limit: number): Promise<Alarm> => {
    const { db, clock, changes } = house.bussola;
    const alarm = await insertAlarm(
      db,
      {
        name,
        signal: plainSignal({ metric, statistic: 'max' }),
        rule: rule(3, 5, { levels: [threshold('above', limit)] }),
        ...plainDetails,
        route: null
      },
      'test',
      clock.now()
    );
    changes.tell('definition', { alarmId: alarm.id });
    return alarm;
  };
  const subjects = async (alarm: Alarm) =>
    (await incidentsOfAlarm(house, alarm)).map(
      ({ subject, closedAt }) => `${subject} ${closedAt === null ? 'open' : 'over'}`
    );

  before(async function () {
    this.timeout(90_000);
    machines = await connectMachines(house);
  });

  it('one that lacks a right yields nothing of one service, which is one incident on the account', async () => {
    await connect(house, 'perla-data', {
      provider: 'ostro',
      keyId: 'bussola-reader',
      secret: 'demo-only-ostro-71c0e2'
    });
    const silent = await watching('A service sends nothing', 'account.services.silent', 0);
    await liveMinutes(house, machines, 12);
    await until('raised', async () => (await subjects(silent)).length > 0);
    expect(await subjects(silent)).to.deep.equal(['perla-data open']);
  }).timeout(240_000);

  it('one that goes dark is one incident, and what is watched there is marked, not raised', async () => {
    const { db, providers, clock } = house.bussola;
    const dark = await watching('No data', 'account.data.age', 900);
    const busy = await processorAlarm(house, 'gate-api-2');
    await until('clear', async () => (await seriesStates(db, busy.id))[0]?.state === 'clear');
    house.standIns.levante.faultMode = 'down';
    await liveMinutes(house, machines, 21);
    await until('raised', async () => (await subjects(dark)).length > 0);
    expect(await subjects(dark)).to.deep.equal(['corallo-prod open']);
    expect(await incidentsOfAlarm(house, busy)).to.deep.equal([]);
    const found = await darkAccounts(db, providers, clock.now());
    expect(found.map(({ name }) => name)).to.deep.equal(['corallo-prod']);
    const listed = await listAlarms(db, clock.now(), found);
    expect(listed.find(({ id }) => id === busy.id)?.dark).to.deep.equal(['corallo-prod']);

    house.standIns.levante.faultMode = 'usual';
    await liveMinutes(house, machines, 8);
    await until('over', async () => (await subjects(dark))[0] === 'corallo-prod over');
    expect(await darkAccounts(db, providers, clock.now())).to.deep.equal([]);
  }).timeout(240_000);

  it('are not among the accounts that people connect', async () => {
    expect((await allAccounts(house.bussola.db)).map(({ name }) => name)).to.have.members([
      'corallo-prod',
      'perla-data'
    ]);
  });
});
