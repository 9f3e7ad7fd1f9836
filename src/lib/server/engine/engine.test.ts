import { rule, threshold } from '../../../../tests/support/alarm';
import { expect } from 'chai';
import { plainSignal } from '../../core/signal';
import { routeTo, processorAlarm, withMachines } from '../../../../tests/support/bussola';
import { until } from '../../../../tests/support/until';
import { alarmById, changeAlarm, removeAlarm, seriesStates } from '../alarms/alarms';
import { removeAccount } from '../intake/pull/remove-account';
import { memoryOfAlarm } from '../alarms/alarm-work';
import { eventsOfIncident } from '../incidents/events';
import { changesOfIncident } from '../incidents/incidents';
import { insertEmailChannel } from '../notify/channels';
import { messagesOfIncident } from '../notify/outbox-lists';

describe('the engine', () => {
  const { house, stateOf, incidentsOf, mailsTo, stress, live, accountId } = withMachines();
  const { round } = Math;

  it('raises, tells the confirmed channel only, clears and tells again, with the numbers it decided on', async () => {
    const deaf = await insertEmailChannel(house.bussola.db, {
      name: 'deaf',
      address: 'deaf@example.test',
      createdAt: house.clock.now(),
      createdBy: 'test'
    });
    const told = await routeTo(house, 'nerea@example.test', {}, [deaf.id]);
    const alarm = await processorAlarm(house, 'booking-web-1', { route: told });
    await until('clear', async () => (await stateOf(alarm)) === 'clear');

    stress('booking-web-1', 96, 6);
    await live(5);
    await until('raised', async () => (await stateOf(alarm)) === 'raised');
    const [open] = await incidentsOf(alarm);
    expect(open?.closedAt).to.equal(null);
    const [raised] = await until(
      'the mail',
      () => mailsTo('nerea@example.test').length === 1 && mailsTo('nerea@example.test')
    );
    expect(raised?.subject).to.match(
      /^MAJOR booking-web-1: processor use 9\d(\.\d)? % \(limit 80 %\) since \d\d:\d\d$/
    );
    for (const part of [
      'booking-web-1',
      'corallo-prod, perla-1',
      'above 80 %',
      `https://bussola.example.test/incidents/${open!.id}`
    ])
      expect(raised?.text).to.contain(part);
    expect(raised?.html).to.contain(`href="https://bussola.example.test/incidents/${open!.id}"`);

    const [change] = await changesOfIncident(house.bussola.db, open!.id);
    expect([change?.from, change?.to, change?.at]).to.deep.equal(['clear', 'raised', open!.openedAt]);
    expect(change?.evidence.values).to.have.length(3);
    expect(change?.evidence.values.filter((value) => value !== null && value > 80)).to.have.length(
      change!.evidence.met
    );
    expect(change?.evidence.level).to.deep.equal(alarm.definition.rule.levels[0]);
    expect([change?.evidence.high, change?.evidence.alarmVersion]).to.deep.equal([[80], 1]);
    const { arrived = [], start, step } = change!.evidence;
    expect(arrived).to.have.length(3);
    for (const [i, came] of arrived.entries())
      expect(came, `cell ${i}`).to.be.within(start + i * step, house.clock.now());

    await live(7);
    await until('clear again', async () => (await stateOf(alarm)) === 'clear');
    const [cleared] = await until(
      'the second mail',
      () => mailsTo('nerea@example.test').length === 2 && mailsTo('nerea@example.test')
    );
    expect(cleared?.subject).to.match(/^CLEAR booking-web-1: processor use .* after \d+ min$/);
    const [closed] = await incidentsOf(alarm);
    expect(round(closed!.peak!)).to.be.within(94, 98);
    // The mail is there a moment before it is noted that it was taken.
    const isSent = async () => {
      const states = (await messagesOfIncident(house.bussola.db, closed!.id)).map((one) => `${one.kind} ${one.state}`);
      return states.join() === 'raised sent,cleared sent';
    };
    await until('both noted as sent', isSent);
    expect(mailsTo('deaf@example.test')).to.deep.equal([]);
  }).timeout(180_000);

  it('silence is indeterminate, neither clear nor an incident, and tells nobody', async () => {
    const told = await routeTo(house, 'silence@example.test');
    const alarm = await processorAlarm(house, 'gate-api-1', { route: told });
    const keeping = await processorAlarm(house, 'gate-api-1', {
      route: told,
      rule: { ...alarm.definition.rule, whenMissing: 'keep' }
    });
    await until('clear', async () => (await stateOf(alarm)) === 'clear' && (await stateOf(keeping)) === 'clear');
    stress('gate-api-1', null, 8);
    await live(6);
    await until('indeterminate', async () => (await stateOf(alarm)) === 'indeterminate');
    expect(await stateOf(keeping)).to.equal('clear');
    expect(await incidentsOf(alarm)).to.deep.equal([]);
    await live(6);
    await until('clear again', async () => (await stateOf(alarm)) === 'clear');
    expect(mailsTo('silence@example.test')).to.deep.equal([]);
  }).timeout(180_000);

  it('an account that cannot be reached leaves its alarms indeterminate after five minutes', async () => {
    const alarm = await processorAlarm(house, 'gate-api-2');
    await until('clear', async () => (await stateOf(alarm)) === 'clear');
    house.standIns.levante.faultMode = 'down';
    await live(3);
    expect(await stateOf(alarm)).to.equal('clear');
    await live(8);
    await until('indeterminate', async () => (await stateOf(alarm)) === 'indeterminate');
    house.standIns.levante.faultMode = 'usual';
    await live(4);
    await until('clear again', async () => (await stateOf(alarm)) === 'clear');
  }).timeout(180_000);

  it('judges again at once when its threshold is changed, and lets go of series it no longer watches', async () => {
    const alarm = await processorAlarm(house, 'quay-display-1');
    await until('clear', async () => (await stateOf(alarm)) === 'clear');
    const lower = {
      ...alarm.definition,
      rule: { ...alarm.definition.rule, levels: [threshold('above', 1)] }
    };
    await changeAlarm(house.bussola.db, alarm.id, lower, 'test', house.clock.now());
    house.bussola.changes.tell('definition', { alarmId: alarm.id });
    await until('raised', async () => (await stateOf(alarm)) === 'raised');
    const elsewhere = {
      ...lower,
      signal: plainSignal({
        metric: 'machine.processor.use',
        where: [{ label: 'resource', is: ['nothing-of-that-name'] }],
        statistic: 'avg'
      })
    };
    await changeAlarm(house.bussola.db, alarm.id, elsewhere, 'test', house.clock.now());
    house.bussola.changes.tell('definition', { alarmId: alarm.id });
    await until('no series', async () => (await seriesStates(house.bussola.db, alarm.id)).length === 0);
    expect((await incidentsOf(alarm)).every(({ closedAt }) => closedAt !== null)).to.equal(true);
    await house.bussola.db.transaction((within) => removeAlarm(within, alarm.id, house.clock.now()));
    expect(await alarmById(house.bussola.db, alarm.id)).to.equal(null);
  });

  it('one that is switched off ends its incidents and notifies nobody; switched on again it is judged at once', async () => {
    const told = await routeTo(house, 'off@example.test');
    const alarm = await processorAlarm(house, 'gate-api-1', {
      route: told,
      rule: rule(1, 1, { levels: [threshold('above', 1)], whenMissing: 'keep' })
    });
    await until('raised', async () => (await stateOf(alarm)) === 'raised');
    await until('the mail', () => mailsTo('off@example.test').length === 1);
    const switched = async (enabled: boolean) => {
      const { db, clock } = house.bussola;
      const definition = { ...alarm.definition, enabled };
      await db.transaction((within) => changeAlarm(within, alarm.id, definition, 'test', clock.now()));
      house.bussola.changes.tell('definition', { alarmId: alarm.id });
    };
    await switched(false);
    await until('nothing watched', async () => (await seriesStates(house.bussola.db, alarm.id)).length === 0);
    expect((await incidentsOf(alarm)).map(({ closedAt }) => closedAt !== null)).to.deep.equal([true]);
    expect(await eventsOfIncident(house.bussola.db, (await incidentsOf(alarm))[0]!.id)).to.have.length(2);
    await switched(true);
    await until('raised again', async () => (await stateOf(alarm)) === 'raised');
    await until('the second mail', () => mailsTo('off@example.test').length === 2);
    expect(mailsTo('off@example.test').every(({ subject }) => subject.startsWith('MAJOR'))).to.equal(true);
  }).timeout(180_000);

  it('an alarm that cannot be judged, whatever the reason, says so, is indeterminate, and its channels are notified', async () => {
    const told = await routeTo(house, 'unjudged@example.test');
    const alarm = await processorAlarm(house, 'quay-display-1', { route: told });
    await until('clear', async () => (await stateOf(alarm)) === 'clear');
    // As a fault of ours would: what was judged cannot be written.
    const { db } = house.bussola;
    await db.rows(
      `create function refuse() returns trigger language plpgsql as 'begin raise exception ''of the program itself''; end'`
    );
    await db.rows(
      `create trigger refuse before update of memory on alarm_work for each row when (old.alarm_id = ${alarm.id}) execute function refuse()`
    );
    await live(1);
    await until('indeterminate', async () => (await stateOf(alarm)) === 'indeterminate');
    expect((await alarmById(house.bussola.db, alarm.id))?.lastError).to.deep.include({
      message: 'An unexpected error stopped it (error).',
      notifiedAt: null
    });
    expect(mailsTo('unjudged@example.test')).to.deep.equal([]);
    await live(11);
    const [mail] = await until('the mail', () => {
      const mails = mailsTo('unjudged@example.test');
      return mails.length > 0 && mails;
    });
    expect(mail?.subject).to.match(/^Alarm ".*" cannot be judged since \d\d:\d\d$/);
    await live(3);
    expect(mailsTo('unjudged@example.test')).to.have.length(1);
    await db.rows('drop trigger refuse on alarm_work');
    house.bussola.changes.tell('definition', { alarmId: alarm.id });
    await until('clear again', async () => (await stateOf(alarm)) === 'clear');
    // What was wrong is forgotten by a statement of its own, after that.
    await until('as if nothing had been', async () => (await alarmById(db, alarm.id))?.lastError === null);
  }).timeout(180_000);

  it('what was remembered and cannot be read is let go, and what is open stays one incident', async () => {
    const { db } = house.bussola;
    const alarm = await processorAlarm(house, 'quay-display-1', {
      rule: rule(1, 1, { levels: [threshold('above', 1)], whenMissing: 'keep' })
    });
    await until('raised', async () => (await stateOf(alarm)) === 'raised');
    await db.rows(`update alarm_work set memory = '\\x0100', due_at = 0 where alarm_id = $1`, [alarm.id]);
    await live(2);
    await until('remembered anew', async () => ((await memoryOfAlarm(db, alarm.id))?.length ?? 0) > 2);
    expect(await stateOf(alarm)).to.equal('raised');
    expect((await incidentsOf(alarm)).map(({ closedAt }) => closedAt)).to.deep.equal([null]);
  }).timeout(90_000);

  it('no alarm watches what an account left behind that was removed, though its history stays', async () => {
    const { db } = house.bussola;
    const alarm = await processorAlarm(house, 'booking-web-2', {
      rule: rule(1, 1, { levels: [threshold('above', 1)], whenMissing: 'keep' })
    });
    await until('raised', async () => (await stateOf(alarm)) === 'raised');
    await removeAccount(house.bussola, accountId(), { erase: false, by: 'Kaja' });
    house.bussola.changes.tell('definition', { alarmId: alarm.id });
    await until('no series', async () => (await seriesStates(db, alarm.id)).length === 0);
    const [incident] = await incidentsOf(alarm);
    expect(incident?.closedAt).to.equal(house.clock.now());
    expect((await alarmById(db, alarm.id))?.lastError).to.equal(null);
  }).timeout(90_000);
});
