import { expect } from 'chai';
import {
  connectMachines,
  incidentsOfAlarm,
  liveMinutes,
  processorAlarm,
  stressMachine,
  withHouse
} from '../../../../tests/support/bussola';
import { until } from '../../../../tests/support/until';
import { rule } from '../../../../tests/support/alarm';
import { explainLevel, type AlarmDefinition, type Explanation } from '../../core/alarm';
import { plainSignal } from '../../core/signal';
import { before as earlier, minute, times, type Instant } from '../../core/time';
import { alarmById, insertAlarm, seriesStates, type Alarm } from '../alarms/alarms';
import { saveAlarm } from '../alarms/save-alarm';
import { whyAt, type Why } from './why';

describe('why it was raised, or was not', () => {
  const house = withHouse();
  let alarm: Alarm;
  let openedAt: Instant;

  const why = async (at: Instant): Promise<Why> => {
    const { db, clock, judging } = house.bussola;
    const [series] = await seriesStates(db, alarm.id);
    const current = await alarmById(db, alarm.id);
    if (!series || !current) throw new Error('the alarm watches nothing');
    return whyAt(db, current, series, at, async (definition, moment) =>
      judging.explain(clock.now(), { alarm: definition, key: series.key, at: moment })
    );
  };
  const explained = ({ explanation }: Why): Explanation => {
    if ('code' in explanation) throw new Error(explanation.message);
    return explanation;
  };

  before(async function () {
    this.timeout(180_000);
    const accountId = await connectMachines(house);
    alarm = await processorAlarm(house, 'booking-web-1');
    await until('clear', async () => (await seriesStates(house.bussola.db, alarm.id))[0]?.state === 'clear');
    stressMachine(house, 'booking-web-1', 95, 6);
    await liveMinutes(house, accountId, 6);
    const [incident] = await until('the incident', async () => {
      const found = await incidentsOfAlarm(house, alarm);
      return found.length === 1 && found;
    });
    openedAt = incident?.openedAt as Instant;
  });

  it('at the moment it was raised: as it was recorded, and by the windows of that moment', async () => {
    const told = await why(openedAt);
    expect(told.standing).to.deep.include({ state: 'raised', severity: 'major', since: openedAt });
    expect(told.recorded?.incidentId).to.be.a('number');
    expect(told.changedSince, 'no sample came later').to.equal(0);
    const { until: end, levels, step, unit } = explained(told);
    expect(end).to.equal(openedAt);
    expect(levels[0]?.codes).to.equal('311');
    expect(levels[0]?.values.filter((value) => (value ?? 0) > 90)).to.have.length(2);
    expect(explainLevel(told.definition.rule, levels[0]!, step, unit, false)).to.deep.equal([
      'It is above 80 % in 2 of the last 3 windows of 1 minute; 2 are needed.'
    ]);
  });

  it('a minute before: one window was not enough', async () => {
    const told = await why(earlier(openedAt, minute));
    expect(told.standing?.state).to.equal('clear');
    const { levels, step, unit } = explained(told);
    expect(explainLevel(told.definition.rule, levels[0]!, step, unit, false)[0]).to.equal(
      'It is above 80 % in 1 of the last 3 windows of 1 minute; 2 are needed.'
    );
  });

  it('by the definition that was in force then', async () => {
    const { definition } = alarm;
    const rule = { ...definition.rule, window: { needs: 1, of: 1 } };
    await saveAlarm(house.bussola, alarm.id, { ...definition, rule }, 'Ivo');
    expect((await why(openedAt)).version).to.equal(1);
    expect(await why(house.clock.now())).to.deep.include({ version: 2, by: 'Ivo', existed: true });
    const long = await why(earlier(alarm.createdAt, times(5, minute)));
    expect(long).to.deep.include({ existed: false, version: 1, standing: null });
  });
});

describe('why, of what is counted or compared in other ways', () => {
  const house = withHouse();
  before(async function () {
    this.timeout(180_000);
    await connectMachines(house);
  });
  const judged = async (alarm: Alarm) =>
    until('judged', async () => {
      const states = await seriesStates(house.bussola.db, alarm.id);
      return states.length > 0 && states;
    });

  it('a machine that is unlike its peers is explained by all of them, though one alone is asked for', async () => {
    const { db, clock, judging, changes } = house.bussola;
    const definition: AlarmDefinition = {
      ...(await processorAlarm(house, 'booking-web-1')).definition,
      signal: plainSignal({ metric: 'machine.processor.use', statistic: 'avg' }),
      rule: rule(1, 1, { levels: [{ severity: 'minor', condition: { kind: 'rank', is: 'outside', by: 100 } }] })
    };
    const alarm = await insertAlarm(db, definition, 'test', clock.now());
    changes.tell('definition', { alarmId: alarm.id });
    const [series] = await judged(alarm);
    const explanation = await judging.explain(clock.now(), {
      alarm: definition,
      key: series?.key ?? '',
      at: clock.now()
    });
    if ('code' in explanation) throw new Error(explanation.message);
    expect(explanation.levels[0]?.codes, 'peers are known').to.match(/^[13]$/);
    expect(explanation.levels[0]?.high[0]).to.be.a('number');
  });

  it('missing cells that counted as others when it was decided are not taken for late samples', async () => {
    const alarm = await processorAlarm(house, 'booking-web-2', {
      rule: rule(2, 3, { whenMissing: 'meets' })
    });
    stressMachine(house, 'booking-web-2', null, 40);
    house.clock.pass(20);
    const [incident] = await until('raised by silence', async () => {
      const found = await incidentsOfAlarm(house, alarm);
      return found.length > 0 && found;
    });
    const { db, clock, judging } = house.bussola;
    const [series] = await judged(alarm);
    const told = await whyAt(db, alarm, series!, incident!.openedAt, async (definition, at) =>
      judging.explain(clock.now(), { alarm: definition, key: series!.key, at })
    );
    expect(told.recorded?.to).to.equal('raised');
    expect(told.changedSince).to.equal(0);
  }).timeout(90_000);
});

describe('why, in sentences', () => {
  const level = {
    severity: 'major' as const,
    condition: { kind: 'threshold' as const, is: 'above' as const, limit: 80 }
  };
  const says = (codes: string, wasRaised = false, more = {}) =>
    explainLevel(rule(3, 5, more), { level, codes }, minute, '%', wasRaised);

  it('how many windows met it, of how many', () => {
    expect(says('33111')).to.deep.equal(['It is above 80 % in 3 of the last 5 windows of 1 minute; 3 are needed.']);
    expect(says('3', false, { window: { needs: 1, of: 1 } })).to.deep.equal([
      'It is above 80 % in no window; 1 is needed.'
    ]);
  });

  it('missing data are said to be decisive, or not', () => {
    expect(says('33321')[1]).to.equal('1 window has no data; even with it it would not be enough.');
    expect(says('31')[1], 'cells before the first are missing').to.equal(
      '3 windows have no data and could decide it: nobody can tell.'
    );
    expect(says('32221', false, { whenMissing: 'keep' })[1]).to.match(/stays as it was/);
    expect(says('32221', false, { whenMissing: 'does not meet' })[1]).to.match(/count as not meeting it/);
  });

  it('what keeps it raised: cells that are not well enough, and the windows that must be well', () => {
    expect(says('33001', true)[1]).to.equal('2 are not well enough to clear: once raised, they count as meeting it.');
    expect(says('33001')).to.have.length(1);
    expect(says('1111133333', true, { clearing: { needs: 8, of: 8 } })[1]).to.equal(
      'It clears when 8 of the last 8 are well; 5 are.'
    );
  });
});
