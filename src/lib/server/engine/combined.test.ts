import { expect } from 'chai';
import { plainDetails, rule } from '../../../../tests/support/alarm';
import { processorAlarm, withMachines } from '../../../../tests/support/bussola';
import { until } from '../../../../tests/support/until';
import type { AlarmDefinition, Combines, Condition } from '../../core/alarm';
import { isRefused } from '../../core/problem/problem';
import { plainSignal } from '../../core/signal';
import { alarmById, changeAlarm } from '../alarms/alarms';
import { saveAlarm } from '../alarms/save-alarm';
import { eventsOfIncident } from '../incidents/events';

describe('combined alarms', () => {
  const { house, stateOf, incidentsOf, stress, live } = withMachines();

  const onMachine = (machine: string) =>
    plainSignal({
      metric: 'machine.processor.use',
      where: [{ label: 'resource', is: [machine] }],
      statistic: 'avg'
    });
  const combining = (needs: 'any' | 'all', parts: Combines['parts'], name = `Combined, ${needs}`): AlarmDefinition => ({
    ...{ name, combines: { parts, by: [], step: 'PT1M' }, ...plainDetails, route: null },
    rule: rule(1, 1, { levels: [{ severity: 'critical', condition: { kind: 'combined', needs } }] })
  });
  const saved = (definition: AlarmDefinition, id: number | null = null) =>
    saveAlarm(house.bussola, id, definition, 'test');

  it('all is raised while every part is, any while one is; a part that is an alarm counts as it was judged', async () => {
    const one = await processorAlarm(house, 'booking-web-1', { rule: rule(1, 1) });
    const parts: Combines['parts'] = [
      { alarm: one.id },
      {
        name: 'the other',
        signal: onMachine('booking-web-2'),
        condition: { kind: 'threshold', is: 'above', limit: 80 }
      }
    ];
    const [all, any] = [await saved(combining('all', parts)), await saved(combining('any', parts))];
    await live(2);
    await until('both clear', async () => (await stateOf(all)) === 'clear' && (await stateOf(any)) === 'clear');
    stress('booking-web-1', 95, 12);
    await live(4);
    await until('any raised', async () => (await stateOf(any)) === 'raised');
    expect(await stateOf(all)).to.equal('clear');
    stress('booking-web-2', 95, 5);
    await live(4);
    await until('all raised', async () => (await stateOf(all)) === 'raised');
    await live(10);
    await until('both clear again', async () => (await stateOf(all)) === 'clear' && (await stateOf(any)) === 'clear');
    const [incident] = await incidentsOf(all);
    const [longer] = await incidentsOf(any);
    expect(incident!.openedAt).to.be.above(longer!.openedAt);
    const kinds = (await eventsOfIncident(house.bussola.db, incident!.id)).map(({ kind }) => kind);
    expect(kinds.filter((kind) => kind !== 'unreached')).to.deep.equal(['opened', 'closed']);
  }).timeout(240_000);

  it('a part that looks back is judged by what came before, also from one minute to the next', async () => {
    const rises: Condition = { kind: 'change', is: 'rise', by: 30, as: 'amount', against: 'before', over: 'PT3M' };
    const never: Condition = { kind: 'threshold', is: 'above', limit: 1000 };
    const signal = onMachine('gate-api-1');
    const alarm = await saved(
      combining('any', [
        { name: 'rises', signal, condition: rises },
        { name: 'never', signal, condition: never }
      ])
    );
    await live(2);
    await until('clear', async () => (await stateOf(alarm)) === 'clear');
    stress('gate-api-1', 97, 6);
    await live(6);
    await until('raised', async () => (await incidentsOf(alarm)).length === 1);
  }).timeout(180_000);

  it('that would combine itself, or what does not exist, is refused by name', async () => {
    const one = await processorAlarm(house, 'quay-display-1');
    const first = await saved(combining('any', [{ alarm: one.id }, { alarm: one.id }], 'First'));
    const second = await saved(combining('any', [{ alarm: first.id }, { alarm: one.id }], 'Second'));
    const refusal = async (definition: AlarmDefinition, id: number | null) =>
      saved(definition, id).then(
        () => null,
        (error: unknown) => (isRefused(error, 'alarm-parts') ? error.message : error)
      );
    expect(await refusal(combining('any', [{ alarm: second.id }, { alarm: one.id }], 'First'), first.id)).to.equal(
      'It would combine itself: “First” combines “Second” combines “First”.'
    );
    expect(await refusal(combining('any', [{ alarm: first.id }, { alarm: one.id }], 'First'), first.id)).to.match(
      /combine itself/
    );
    expect(await refusal(combining('any', [{ alarm: 99_999 }, { alarm: one.id }]), null)).to.match(/does not exist/);
  });

  it('of a part that is switched off says so rather than being silent', async () => {
    const { db, clock, changes } = house.bussola;
    const one = await processorAlarm(house, 'quay-display-1', { name: 'Part' });
    const alarm = await saved(combining('any', [{ alarm: one.id }, { alarm: one.id }]));
    await live(1);
    await until('clear', async () => (await stateOf(alarm)) === 'clear');
    await db.transaction((within) =>
      changeAlarm(within, one.id, { ...one.definition, enabled: false }, 'test', clock.now())
    );
    changes.tell('definition', { alarmId: one.id });
    const told = await until('the reason', async () => (await alarmById(db, alarm.id))?.lastError);
    expect(told.message).to.equal('“Part”, which this alarm combines, is switched off.');
    expect(await stateOf(alarm)).to.equal('indeterminate');
  }).timeout(90_000);
});
