import { rule as ruleOf, threshold } from '../../../../tests/support/alarm';
import { expect } from 'chai';
import {
  connectMachines,
  incidentsOfAlarm,
  liveMinutes,
  processorAlarm,
  withHouse
} from '../../../../tests/support/bussola';
import { until } from '../../../../tests/support/until';
import { readingAt } from '../../core/receive/received';
import type { Signal } from '../../core/signal';
import { draftAlarm, withUnit } from '../alarms/draft';
import { alarmById, changeAlarm, seriesStates, type Alarm } from '../alarms/alarms';
import { changesOfIncident } from '../incidents/incidents';
import { keyByText, makeKey } from '../intake/receive/keys';
import { storeReceived } from '../intake/receive/receive';

describe('alarms on composed signals', () => {
  const house = withHouse();
  let accountId: number;
  const metric = 'machine.processor.use';
  const rule = ruleOf(2, 2, { levels: [threshold('above', 0)] });
  const byRegion: Signal = {
    version: 2,
    rows: [
      { name: 'a', metric, where: [], statistic: 'avg', combine: { statistic: 'avg', by: ['account', 'region'] } },
      { name: 'share', formula: 'a / 100 * 50' }
    ],
    step: 'PT1M'
  };
  const statesOf = ({ id }: Alarm) => seriesStates(house.bussola.db, id);
  const incidentsOf = (alarm: Alarm) => incidentsOfAlarm(house, alarm);
  const live = (minutes: number) => liveMinutes(house, accountId, minutes);

  before(async function () {
    this.timeout(90_000);
    accountId = await connectMachines(house);
  });

  it('each group has a state of its own, an incident that says where it is, and the numbers it was decided on', async () => {
    const alarm = await processorAlarm(house, 'any', { name: 'Use by region', signal: byRegion, rule });
    await until('its series', async () => (await statesOf(alarm)).length > 1);
    await live(3);
    const states = await until('all raised', async () => {
      const found = await statesOf(alarm);
      return found.every(({ state }) => state === 'raised') && found;
    });
    expect(states.map(({ key }) => key)).to.deep.equal([...new Set(states.map(({ key }) => key))]);
    for (const { labels, seriesId, accountId: from } of states) {
      expect(Object.keys(labels).sort()).to.deep.equal(['account', 'region']);
      expect([seriesId, from]).to.deep.equal([null, null]);
    }
    const incidents = await incidentsOf(alarm);
    expect(incidents.map(({ key }) => key).sort()).to.deep.equal(states.map(({ key }) => key).sort());
    const [incident] = incidents;
    expect(incident).to.include({ account: 'corallo-prod', resource: '', metric: null, unit: '%', resourceId: null });
    expect(incident?.subject).to.equal(`corallo-prod ${incident?.region}`);
    const [change] = await changesOfIncident(house.bussola.db, incident?.id ?? 0);
    expect(change?.to).to.equal('raised');
    expect(change?.evidence.values).to.have.length(2);
    expect(change?.evidence.values.every((value) => value !== null && value > 0)).to.equal(true);
  }).timeout(180_000);

  it('a group that is no longer yielded is let go, and its incident closed', async () => {
    const alarm = await processorAlarm(house, 'any', { name: 'Let go', signal: byRegion, rule });
    await live(3);
    await until('raised', async () => (await incidentsOf(alarm)).length > 1);
    const [kept] = (await statesOf(alarm)).map(({ labels }) => labels.region ?? '');
    const where = [{ label: 'region', is: [kept ?? ''] }];
    const [pick, formula] = byRegion.rows as [Signal['rows'][number], Signal['rows'][number]];
    const narrowed = { ...byRegion, rows: [{ ...pick, where }, formula] } as Signal;
    await changeAlarm(house.bussola.db, alarm.id, { ...alarm.definition, signal: narrowed }, 'test', house.clock.now());
    house.bussola.changes.tell('definition', { alarmId: alarm.id });
    await live(1);
    await until('one series', async () => (await statesOf(alarm)).length === 1);
    const open = (await incidentsOf(alarm)).filter(({ closedAt }) => closedAt === null);
    expect(open.map(({ region }) => region)).to.deep.equal([kept]);
  }).timeout(180_000);

  it('one that cannot be worked out says why and claims nothing, until it can again', async () => {
    const alarm = await processorAlarm(house, 'any', { name: 'Broken', signal: byRegion, rule });
    await live(2);
    await until('judged', async () => (await statesOf(alarm)).some(({ state }) => state === 'raised'));
    const broken = { ...byRegion, rows: [byRegion.rows[0], { name: 'share', formula: 'nothing / a' }] } as Signal;
    const change = (signal: Signal) =>
      changeAlarm(house.bussola.db, alarm.id, { ...alarm.definition, signal }, 'test', house.clock.now());
    await change(broken);
    house.bussola.changes.tell('definition', { alarmId: alarm.id });
    const told = await until('the reason', async () => (await alarmById(house.bussola.db, alarm.id))?.lastError);
    expect(told.message).to.equal('There is no row named nothing.');
    expect((await statesOf(alarm)).every(({ state }) => state === 'indeterminate')).to.equal(true);
    await change(byRegion);
    house.bussola.changes.tell('definition', { alarmId: alarm.id });
    await until('mended', async () => (await alarmById(house.bussola.db, alarm.id))?.lastError === null);
  }).timeout(180_000);

  it('one whose series nobody can tell apart is refused rather than judged as one', async () => {
    const rows = [
      { name: 'a', metric: 'machine.*', where: [], statistic: 'count' },
      { name: 'all', metric, where: [], statistic: 'count', combine: { statistic: 'count', by: [] } },
      { name: 'share', formula: 'a / all' }
    ];
    const signal = { version: 2, rows, step: 'PT1M' } as Signal;
    const alarm = await processorAlarm(house, 'any', { name: 'Twins', signal, rule });
    const told = await until('the reason', async () => (await alarmById(house.bussola.db, alarm.id))?.lastError);
    expect(told.message).to.match(/^Several of its series have the same labels, such as .*resource /);
    expect(await statesOf(alarm)).to.deep.equal([]);
  }).timeout(90_000);

  it('a signal that yields nothing yet gets no unit that it might not have', async () => {
    const nothing = {
      ...byRegion,
      rows: byRegion.rows.map((row) => ({ ...row, where: [{ label: 'region', is: ['none'] }] }))
    };
    const [pick, formula] = nothing.rows as [Signal['rows'][number], Signal['rows'][number]];
    const empty = { ...byRegion, rows: [pick, { name: formula.name, formula: 'a * 2' }] } as Signal;
    expect((await withUnit(house.bussola, empty)).unit).to.equal(undefined);
    expect((await withUnit(house.bussola, byRegion)).unit).to.equal('%');
    const draft = await draftAlarm(house.bussola, JSON.stringify(empty));
    expect(draft.signal?.unit).to.equal(undefined);
  });

  it('what other programs send is not taken for well when they fall silent', async () => {
    const { db, clock } = house.bussola;
    const day = 86_400_000;
    const { text } = await makeKey(db, {
      name: 'gate counter',
      expiresAt: null,
      mostSeries: 10,
      mostBytesADay: day,
      createdAt: clock.now(),
      createdBy: 'test'
    });
    const key = (await keyByText(db, text, clock.now()))!;
    const send = async () => {
      const at = Math.floor(clock.now() / 60_000) * 60_000 - 60_000;
      const taken = await storeReceived(house.bussola, key, {
        series: [
          {
            resource: { id: 'gate-7', name: 'gate-7', tags: {} },
            metric: { name: 'gate.queue', description: '', unit: '1', kind: 'gauge' },
            labels: {},
            weight: 1,
            points: [readingAt(at, 4)],
            starts: [null]
          }
        ],
        refused: [],
        faults: []
      });
      expect(taken.accepted).to.equal(1);
    };
    await send();
    const signal: Signal = {
      version: 2,
      rows: [{ name: 'a', metric: 'gate.queue', where: [], statistic: 'avg', combine: { statistic: 'sum', by: [] } }],
      step: 'PT1M'
    };
    const alarm = await processorAlarm(house, 'any', {
      name: 'Queue at the gate',
      signal,
      rule: { ...rule, levels: [threshold('above', 100)] }
    });
    for (let i = 0; i < 3; i++) {
      await live(1);
      await send();
    }
    await until('clear', async () => (await statesOf(alarm))[0]?.state === 'clear');
    await live(9);
    await until('indeterminate', async () => (await statesOf(alarm))[0]?.state === 'indeterminate');
  }).timeout(240_000);
});
