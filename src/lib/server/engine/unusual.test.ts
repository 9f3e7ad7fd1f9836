import { expect } from 'chai';
import { join } from 'node:path';
import { rule, threshold } from '../../../../tests/support/alarm';
import {
  routeTo,
  connectMachines,
  incidentsOfAlarm,
  liveMinutes,
  mailsTo,
  processorAlarm,
  stressMachine,
  withHouse
} from '../../../../tests/support/bussola';
import { until } from '../../../../tests/support/until';
import { plainSignal } from '../../core/signal';
import { alarmById, insertAlarm, seriesStates, type Alarm } from '../alarms/alarms';
import { saveAlarm } from '../alarms/save-alarm';
import { eventsOfIncident } from '../incidents/events';
import { changesOfIncident } from '../incidents/incidents';
import { makeDerived } from '../query/derived/make-derived';
import { startEngine } from './engine';
import { startEngineThread } from './engine-thread';

describe('alarms, when things are not as usual', () => {
  const house = withHouse();
  let accountId: number;

  const live = (minutes: number) => liveMinutes(house, accountId, minutes);
  const stateOf = async ({ id }: Alarm) => (await seriesStates(house.bussola.db, id))[0]?.state;
  const incidentsOf = (alarm: Alarm) => incidentsOfAlarm(house, alarm);
  /** What the engine recorded; that no route takes some of it is not its doing. */
  const kindsOf = async (alarm: Alarm) => {
    const all = await Promise.all((await incidentsOf(alarm)).map(({ id }) => eventsOfIncident(house.bussola.db, id)));
    return all.map((events) => events.map(({ kind }) => kind).filter((kind) => kind !== 'unreached'));
  };

  before(async function () {
    this.timeout(90_000);
    accountId = await connectMachines(house);
  });

  it('a clock that steps ahead by an hour leaves a gap, judges what is there, and raises what holds once', async () => {
    const alarm = await processorAlarm(house, 'booking-web-1');
    await live(3);
    await until('clear', async () => (await stateOf(alarm)) === 'clear');
    house.clock.pass(60);
    stressMachine(house, 'booking-web-1', 95, 30);
    await live(6);
    await until('raised', async () => (await stateOf(alarm)) === 'raised');
    expect(await kindsOf(alarm)).to.deep.equal([['opened']]);
  }).timeout(180_000);

  it('an account that is an hour late is judged in order when it comes: what was over by then is history, once', async () => {
    const address = 'late@example.test';
    const told = await routeTo(house, address);
    const alarm = await processorAlarm(house, 'gate-api-1', { route: told });
    await live(3);
    await until('clear', async () => (await stateOf(alarm)) === 'clear');
    house.standIns.levante.faultMode = 'down';
    house.clock.pass(10);
    stressMachine(house, 'gate-api-1', 95, 15);
    house.clock.pass(55);
    house.standIns.levante.faultMode = 'usual';
    await live(4);
    await until('known', async () => (await incidentsOf(alarm)).length === 1);
    await until('clear', async () => (await stateOf(alarm)) === 'clear');
    const [incident] = await incidentsOf(alarm);
    expect(await kindsOf(alarm)).to.deep.equal([['opened', 'closed']]);
    expect((incident!.closedAt! - incident!.openedAt) / 60_000).to.be.within(13, 18);
    expect(mailsTo(house, address)).to.have.length.at.most(1);
  }).timeout(240_000);

  it('one that is edited while it is raised stays one incident, decided by the new definition from then on', async () => {
    const alarm = await processorAlarm(house, 'gate-api-2');
    stressMachine(house, 'gate-api-2', 95, 30);
    await live(6);
    await until('raised', async () => (await stateOf(alarm)) === 'raised');
    const raise = (limit: number) => ({
      ...alarm.definition,
      rule: { ...alarm.definition.rule, levels: [threshold('above', limit)] }
    });
    await saveAlarm(house.bussola, alarm.id, raise(90), 'test');
    await until('judged by it', async () => (await alarmById(house.bussola.db, alarm.id))?.version === 2);
    await live(2);
    expect(await kindsOf(alarm)).to.deep.equal([['opened']]);
    await saveAlarm(house.bussola, alarm.id, raise(99), 'test');
    await until('clear', async () => (await stateOf(alarm)) === 'clear');
    expect(await kindsOf(alarm)).to.deep.equal([['opened', 'closed']]);
    const changes = await changesOfIncident(house.bussola.db, (await incidentsOf(alarm))[0]!.id);
    expect(changes.map(({ to, evidence }) => [to, evidence.alarmVersion])).to.deep.equal([
      ['raised', 1],
      ['clear', 3]
    ]);
  }).timeout(180_000);

  it('a series whose resource its provider says is gone ends within its window, and its incident with it', async () => {
    const alarm = await processorAlarm(house, 'quay-display-1', { rule: rule(2, 30) });
    stressMachine(house, 'quay-display-1', 95, 5);
    await live(4);
    await until('raised', async () => (await stateOf(alarm)) === 'raised');
    await house.bussola.db.rows(`update resources set ended_at = $1 where name = 'quay-display-1'`, [
      house.clock.now()
    ]);
    house.bussola.changes.tell('definition', { alarmId: null });
    await until('ended', async () => (await incidentsOf(alarm))[0]?.closedAt !== null);
    expect(await kindsOf(alarm)).to.deep.equal([['opened', 'ended']]);
  }).timeout(180_000);

  it('one on a derived metric is raised by what is computed', async () => {
    const { bussola, clock } = house;
    const derived = await makeDerived(
      bussola,
      {
        name: 'busiest machine',
        signal: {
          ...plainSignal({ metric: 'machine.processor.use', statistic: 'avg' }),
          rows: [
            {
              ...{ name: 'a', metric: 'machine.processor.use', where: [], statistic: 'avg' },
              combine: { statistic: 'max', by: [] }
            }
          ]
        }
      },
      'test',
      0
    );
    const alarm = await insertAlarm(
      bussola.db,
      {
        name: 'The busiest is exhausted',
        ...{ enabled: true, labels: {}, owner: '', about: '', runbook: '', route: null },
        signal: plainSignal({ metric: derived.metric, statistic: 'last' }),
        rule: rule(2, 3, { levels: [threshold('above', 90)] })
      },
      'test',
      clock.now()
    );
    bussola.changes.tell('definition', { alarmId: alarm.id });
    stressMachine(house, 'booking-web-1', 97, 30);
    await live(8);
    await until('raised', async () => (await stateOf(alarm)) === 'raised');
    expect(await kindsOf(alarm)).to.deep.equal([['opened']]);
  }).timeout(180_000);

  it('two whole engines on one database decide each cell once, and people hear of it once', async () => {
    const { bussola, clock } = house;
    const { databaseUrl } = bussola.config;
    const connection =
      databaseUrl === null
        ? { host: join(house.data, 'data'), user: 'postgres', database: 'postgres' }
        : { connectionString: databaseUrl };
    const thread = startEngineThread(connection);
    await thread.store.ready;
    const second = startEngine({ ...bussola, ...thread, config: { ...bussola.config, instance: 'second' } });
    try {
      const address = 'twice@example.test';
      const told = await routeTo(house, address);
      const alarms: Alarm[] = [];
      for (const machine of ['booking-web-1', 'booking-web-2', 'gate-api-1'])
        alarms.push(await processorAlarm(house, machine, { route: told, rule: rule(1, 1) }));
      clock.pass(40); // what was stressed before is as usual
      await live(3);
      for (const alarm of alarms) await until('clear', async () => (await stateOf(alarm)) === 'clear');
      for (let round = 1; round <= 3; round++) {
        for (const machine of ['booking-web-1', 'booking-web-2', 'gate-api-1']) stressMachine(house, machine, 95, 2);
        await live(6);
        const over = async () =>
          (await Promise.all(alarms.map(kindsOf))).every(
            (kinds) => kinds.length === round && kinds.every((one) => one.includes('closed'))
          );
        // Whoever judged while the other one stored looks again within 15 s, and this clock stands between its minutes.
        await until('over', async () => (await over()) || live(1).then(() => false), 150_000);
      }
      for (const alarm of alarms) {
        const all = await incidentsOf(alarm);
        const before = (await kindsOf(alarm)).slice(0, 3);
        expect(before).to.deep.equal([1, 2, 3].map(() => ['opened', 'closed']));
        const changes = await Promise.all(all.map(({ id }) => changesOfIncident(bussola.db, id)));
        const at = changes.flat().map((change) => `${change.at} ${change.to}`);
        expect(new Set(at).size, 'each change once').to.equal(at.length);
      }
      await until('the mails', () => mailsTo(house, address).length >= 9);
      const subjects = mailsTo(house, address).map(({ subject, text }) => `${subject} ${text}`);
      expect(new Set(subjects).size, 'each message once').to.equal(subjects.length);
    } finally {
      await second.stop();
      await thread.store.close();
    }
  }).timeout(600_000);

  it('a clock that steps back by an hour holds nothing up: what comes is judged as it comes, and nothing ends before it began', async () => {
    const alarm = await processorAlarm(house, 'booking-web-2');
    await live(3);
    await until('clear', async () => (await stateOf(alarm)) === 'clear');
    stressMachine(house, 'booking-web-2', 95, 20);
    await live(6);
    await until('raised', async () => (await stateOf(alarm)) === 'raised');
    house.clock.pass(-60);
    await live(5);
    await until('clear', async () => (await stateOf(alarm)) === 'clear');
    expect(await kindsOf(alarm)).to.deep.equal([['opened', 'closed']]);
    const [incident] = await incidentsOf(alarm);
    expect(incident!.closedAt).to.be.at.least(incident!.openedAt);
  }).timeout(240_000);
});
