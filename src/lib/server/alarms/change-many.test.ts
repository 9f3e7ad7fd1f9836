import { expect } from 'chai';
import { alarm as processorAlarm, plainDetails, rule } from '../../../../tests/support/alarm';
import { routeTo, connectMachines, withHouse } from '../../../../tests/support/bussola';
import type { AlarmDefinition } from '../../core/alarm';
import { isRefused, Refusal } from '../../core/problem/problem';
import { plainSignal } from '../../core/signal';
import { after, day } from '../../core/time';
import { memoryOfAlarm } from './alarm-work';
import { alarmById, allAlarms, changeAlarm, forgetRemoved, removedFor, type Alarm } from './alarms';
import { changeAlarms, removeAlarms, undoChanges } from './change-many';
import { alarmsAsFile, applyAlarmFile, planAlarmFile } from './files';
import { alarmHistory } from './history';
import { restoreVersion, saveAlarm, storeAlarm } from './save-alarm';

describe('several alarms at once', () => {
  const house = withHouse();
  let route: number;
  const made = (name: string, more: Partial<AlarmDefinition> = {}): Promise<Alarm> =>
    saveAlarm(house.bussola, null, { ...processorAlarm, name, route: null, ...more }, 'Ivo');
  const definitionOf = async ({ id }: Pick<Alarm, 'id'>) => (await alarmById(house.bussola.db, id))?.definition;

  before(async function () {
    this.timeout(90_000);
    await connectMachines(house);
    route = await routeTo(house, 'nerea.olmo@example.test');
  });
  afterEach(async () => {
    const all = await allAlarms(house.bussola.db);
    if (all.length > 0)
      await removeAlarms(
        house.bussola,
        all.map(({ id }) => id),
        'test'
      );
  });

  it('are changed alike, and get back what they had, each as it was', async () => {
    const [a, b] = [await made('A', { owner: 'Ivo' }), await made('B', { owner: 'Kaja' })];
    const { changed, skipped } = await changeAlarms(
      house.bussola,
      [a.id, b.id, a.id, 999_999],
      { owner: 'Data stores', route, enabled: false },
      'Nerea'
    );
    expect(changed).to.deep.equal([
      { id: a.id, version: 2 },
      { id: b.id, version: 2 }
    ]);
    expect(skipped.map(({ why }) => why)).to.deep.equal(['It was removed meanwhile.']);
    expect(await definitionOf(a)).to.deep.include({ owner: 'Data stores', route, enabled: false });
    await saveAlarm(house.bussola, b.id, { ...b.definition, owner: 'Somebody' }, 'Kaja');
    const undone = await undoChanges(house.bussola, changed, 'Nerea');
    expect(undone.changed).to.deep.equal([{ id: a.id, version: 3 }]);
    expect(undone.skipped.map(({ why }) => why)).to.deep.equal(['It was changed again since.']);
    expect(await definitionOf(a)).to.deep.equal(a.definition);
    expect((await definitionOf(b))?.owner).to.equal('Somebody');
  });

  it('of which one cannot be changed so, the others are', async () => {
    const two = rule(1, 1, {
      levels: [
        { severity: 'minor', condition: { kind: 'threshold', is: 'above', limit: 70 } },
        { severity: 'major', condition: { kind: 'threshold', is: 'above', limit: 80 } }
      ]
    });
    const [a, b] = [await made('One level'), await made('Two levels', { rule: two })];
    const { changed, skipped } = await changeAlarms(house.bussola, [a.id, b.id], { severity: 'critical' }, 'Ivo');
    expect(changed).to.deep.equal([{ id: a.id, version: 2 }]);
    expect(skipped).to.deep.equal([
      { id: b.id, name: 'Two levels', why: 'It has several severities: change them on its own page.' }
    ]);
    const refused = await changeAlarms(house.bussola, [a.id], { route: 999_999 }, 'Ivo').catch((e: unknown) => e);
    expect(isRefused(refused, 'route-missing')).to.equal(true);
    expect((await alarmById(house.bussola.db, a.id))?.version).to.equal(2);
  });

  it('of which one watches what is gone are switched off all the same, and that is taken back', async () => {
    const { db } = house.bussola;
    const alarm = await made('Of a metric that is gone');
    const gone = { ...alarm.definition, signal: plainSignal({ metric: 'no.such.metric', statistic: 'avg' }) };
    await changeAlarm(db, alarm.id, gone, 'test', house.clock.now());
    const { changed, skipped } = await changeAlarms(house.bussola, [alarm.id], { enabled: false }, 'Ivo');
    expect(skipped).to.deep.equal([]);
    expect((await definitionOf(alarm))?.enabled).to.equal(false);
    expect((await undoChanges(house.bussola, changed, 'Ivo')).skipped).to.deep.equal([]);
    expect((await definitionOf(alarm))?.enabled).to.equal(true);
    const other = { ...gone, signal: plainSignal({ metric: 'no.other.metric', statistic: 'avg' }) };
    const refused: unknown = await saveAlarm(house.bussola, alarm.id, other, 'Ivo').catch((error: unknown) => error);
    expect(isRefused(refused, 'unknown-metric')).to.equal(true);
  });

  it('one that was changed since it was read is not overwritten', async () => {
    const alarm = await made('Read before');
    await saveAlarm(house.bussola, alarm.id, { ...alarm.definition, owner: 'Kaja' }, 'Kaja');
    const late: unknown = await house.bussola.db
      .transaction((within) =>
        storeAlarm(within, alarm.id, { ...alarm.definition, owner: 'Ivo' }, 'Ivo', house.clock.now(), alarm.version)
      )
      .catch((error: unknown) => error);
    expect(isRefused(late, 'changed-meanwhile')).to.equal(true);
    expect((await definitionOf(alarm))?.owner).to.equal('Kaja');
  });

  it('that were removed come back with their versions within a day, and are forgotten after it', async () => {
    const { db, clock } = house.bussola;
    const alarm = await made('Removed');
    await saveAlarm(house.bussola, alarm.id, { ...alarm.definition, owner: 'Ivo' }, 'Ivo');
    const { changed } = await removeAlarms(house.bussola, [alarm.id], 'test');
    expect(await alarmById(db, alarm.id)).to.equal(null);
    expect(await memoryOfAlarm(db, alarm.id)).to.equal(null);
    await forgetRemoved(db, after(clock.now(), (day - 1000) as never));
    const undone = await undoChanges(house.bussola, changed, 'Ivo');
    expect(undone.skipped).to.deep.equal([]);
    expect((await definitionOf(alarm))?.owner).to.equal('Ivo');
    expect((await alarmHistory(db, alarm.id)).map(({ differences }) => differences)).to.deep.equal([
      ['The owner was nobody, is “Ivo”.'],
      ['It was made.']
    ]);
    expect((await db.rows('select 1 from alarm_work where alarm_id = $1', [alarm.id])).length).to.equal(1);
    await removeAlarms(house.bussola, [alarm.id], 'test');
    await forgetRemoved(db, after(clock.now(), removedFor));
    const late = await undoChanges(house.bussola, changed, 'Ivo');
    expect(late.skipped.map(({ why }) => why)).to.deep.equal(['The alarm can no longer be had back.']);
  });

  it('a version that it had is restored as a new one', async () => {
    const alarm = await made('Version');
    await saveAlarm(house.bussola, alarm.id, { ...alarm.definition, name: 'Renamed' }, 'Ivo');
    const restored = await restoreVersion(house.bussola, alarm.id, 1, 'Kaja');
    expect(restored).to.deep.include({ version: 3, changedBy: 'Kaja' });
    expect(restored.definition).to.deep.equal(alarm.definition);
    const missing = await restoreVersion(house.bussola, alarm.id, 9, 'Kaja').catch((error: unknown) => error);
    expect(isRefused(missing, 'not-found')).to.equal(true);
  });

  describe('as a file', () => {
    const combining = (...ids: number[]): Partial<AlarmDefinition> => ({
      ...plainDetails,
      signal: undefined,
      combines: { parts: ids.map((id) => ({ alarm: id })), by: [], step: 'PT1M' },
      rule: rule(1, 1, { levels: [{ severity: 'critical', condition: { kind: 'combined', needs: 'all' } }] })
    });

    it('are exported, and applied elsewhere with their parts before what combines them', async () => {
      const [a, b] = [await made('A', { route }), await made('B', { owner: 'Ivo' })];
      await made('A and B', combining(a.id, b.id));
      const text = await alarmsAsFile(house.bussola.db, null, 'yaml');
      const same = await planAlarmFile(house.bussola, text);
      expect(same.alarms.map(({ name, differences, problems }) => [name, differences, problems])).to.deep.equal([
        ['A', [], []],
        ['A and B', [], []],
        ['B', [], []]
      ]);
      await removeAlarms(
        house.bussola,
        (await allAlarms(house.bussola.db)).map(({ id }) => id),
        'test'
      );
      const plan = await planAlarmFile(house.bussola, text);
      expect(plan.alarms.map(({ id }) => id)).to.deep.equal([null, null, null]);
      expect(await allAlarms(house.bussola.db), 'a plan changes nothing').to.deep.equal([]);
      await applyAlarmFile(house.bussola, text, 'Ivo');
      expect(await alarmsAsFile(house.bussola.db, null, 'yaml')).to.equal(text);
      const whole = (await allAlarms(house.bussola.db)).find(({ definition }) => definition.combines);
      const names = new Map((await allAlarms(house.bussola.db)).map(({ id, definition }) => [id, definition.name]));
      expect(
        whole?.definition.combines?.parts.map((part) => ('alarm' in part ? names.get(part.alarm) : part.name))
      ).to.deep.equal(['A', 'B']);
    });

    it('change the alarm of their name, and say what', async () => {
      const alarm = await made('A');
      const text = (await alarmsAsFile(house.bussola.db, [alarm.id], 'yaml')).replace('limit: 80', 'limit: 85');
      const plan = await planAlarmFile(house.bussola, text);
      expect(plan.alarms[0]).to.deep.include({
        id: alarm.id,
        differences: ['It was raised as major when it is above 80 %; it is when it is above 85 %.']
      });
      const { applied } = await applyAlarmFile(house.bussola, text, 'Nerea');
      expect(applied).to.deep.equal([{ id: alarm.id, name: 'A' }]);
      expect(await alarmById(house.bussola.db, alarm.id)).to.deep.include({ version: 2, changedBy: 'Nerea' });
      expect((await applyAlarmFile(house.bussola, text, 'Nerea')).applied, 'the second time').to.deep.equal([]);
    });

    it('that combine an alarm of the same file are told apart from those that are here', async () => {
      const [a, b] = [await made('A'), await made('B')];
      const whole = await made('Whole', combining(a.id, b.id));
      const text = (await alarmsAsFile(house.bussola.db, [whole.id, b.id], 'yaml')).replaceAll(
        /(name|alarm): B$/gm,
        '$1: New'
      );
      const plan = await planAlarmFile(house.bussola, text);
      expect(plan.alarms.map(({ name, differences }) => [name, differences])).to.deep.equal([
        ['New', []],
        ['Whole', ['It watched “A” and “B”, watches “A” and “New”.']]
      ]);
      await applyAlarmFile(house.bussola, text, 'Ivo');
      const fresh = (await allAlarms(house.bussola.db)).find(({ definition }) => definition.name === 'New');
      expect((await definitionOf(whole))?.combines?.parts).to.deep.equal([{ alarm: a.id }, { alarm: fresh?.id }]);
    });

    it('without a unit are the same as what was stored with the one that was found', async () => {
      const ratio = {
        ...plainSignal({ metric: 'machine.processor.use', statistic: 'avg' }),
        rows: [
          { name: 'a', metric: 'machine.processor.use', where: [], statistic: 'avg' as const },
          { name: 'b', formula: 'a / 2' }
        ]
      };
      const alarm = await made('With a formula', { signal: ratio });
      expect(alarm.definition.signal?.unit).to.equal('%');
      const text = (await alarmsAsFile(house.bussola.db, [alarm.id], 'yaml')).replace(/^ +unit: .*\n/m, '');
      expect((await planAlarmFile(house.bussola, text)).alarms[0]?.differences).to.deep.equal([]);
    });

    it('that name what is not here are refused whole', async () => {
      const [a, b] = [await made('A'), await made('B')];
      const text = (await alarmsAsFile(house.bussola.db, [a.id, b.id], 'json'))
        .replace('"rule": {', '"route": "Nobody", "rule": {')
        .replaceAll('machine.processor.use', 'machine.processor.us');
      const plan = await planAlarmFile(house.bussola, text);
      expect(plan.alarms[0]?.problems[0]).to.equal('There is no route “Nobody” here, or more than one.');
      expect(plan.alarms[1]?.problems.length).to.equal(1);
      const refused: unknown = await applyAlarmFile(house.bussola, text, 'Ivo').catch((error: unknown) => error);
      expect(refused).to.be.instanceOf(Refusal);
      expect((await alarmById(house.bussola.db, a.id))?.version).to.equal(1);
      const circle = `kind: alarms
version: 2
alarms:
${['C', 'D']
  .map(
    (name, i) => `  - name: ${name}
    combines: { parts: [{ alarm: ${['D', 'C'][i]} }, { alarm: A }], by: [], step: PT1M }
    rule: { levels: [{ severity: major, condition: { kind: combined, needs: all } }], window: { needs: 1, of: 1 }, whenMissing: keep }`
  )
  .join('\n')}`;
      const round: unknown = await applyAlarmFile(house.bussola, circle, 'Ivo').catch((error: unknown) => error);
      expect(isRefused(round, 'alarm-parts'), String(round)).to.equal(true);
      expect((await allAlarms(house.bussola.db)).map(({ definition }) => definition.name)).to.deep.equal(['A', 'B']);
    });
  });
});
