import { expect } from 'chai';
import { plainSignal } from '../../core/signal';
import {
  confirmedChannel,
  connectMachines,
  incidentsOfAlarm,
  liveMinutes,
  machineNamed,
  processorAlarm,
  withHouse
} from '../../../../tests/support/bussola';
import { until } from '../../../../tests/support/until';
import { minute } from '../../core/time';
import { alarmById, changeAlarm, forgetJudged, removeAlarm, seriesStates, type Alarm } from '../alarms/alarms';
import { changesOfIncident } from '../incidents/incidents';
import { insertEmailChannel } from '../notify/channels';
import { messagesOfIncident } from '../notify/outbox';

describe('the engine', () => {
  const house = withHouse();
  const { round } = Math;
  let accountId: number;

  const stateOf = async ({ id }: Alarm) => (await seriesStates(house.bussola.db, id))[0]?.state;
  const incidentsOf = (alarm: Alarm) => incidentsOfAlarm(house, alarm);
  const mailsTo = (address: string) => house.standIns.mailbox.mails.filter(({ to }) => to.includes(address));
  const stress = (machine: string, value: number | null, minutes: number) => {
    const from = house.clock.now();
    house.standIns.levante.stress({
      resource: machineNamed(machine).id,
      metric: 'all',
      value,
      from,
      until: from + minutes * minute
    });
  };
  /** Each minute is pulled and judged before the next. */
  const live = (minutes: number) => liveMinutes(house, accountId, minutes);

  before(async function () {
    this.timeout(30_000);
    accountId = await connectMachines(house);
  });

  it('raises, tells the confirmed channel only, clears and tells again, with the numbers it decided on', async () => {
    const told = await confirmedChannel(house, 'nerea@example.test');
    const deaf = await insertEmailChannel(house.bussola.db, {
      name: 'deaf',
      address: 'deaf@example.test',
      createdAt: house.clock.now(),
      createdBy: 'test'
    });
    const alarm = await processorAlarm(house, 'booking-web-1', { channels: [told, deaf.id] });
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
    expect(change?.evidence.rule).to.deep.equal(alarm.definition.rule);

    await live(7);
    await until('clear again', async () => (await stateOf(alarm)) === 'clear');
    const [cleared] = await until(
      'the second mail',
      () => mailsTo('nerea@example.test').length === 2 && mailsTo('nerea@example.test')
    );
    expect(cleared?.subject).to.match(/^CLEAR booking-web-1: processor use .* after \d+ min$/);
    const [closed] = await incidentsOf(alarm);
    expect(round(closed!.peak!)).to.be.within(94, 98);
    expect(
      (await messagesOfIncident(house.bussola.db, closed!.id)).map(({ kind, state }) => `${kind} ${state}`)
    ).to.deep.equal(['raised sent', 'cleared sent']);
    expect(mailsTo('deaf@example.test')).to.deep.equal([]);
  }).timeout(60_000);

  it('silence is indeterminate, neither clear nor an incident, and tells nobody', async () => {
    const told = await confirmedChannel(house, 'silence@example.test');
    const alarm = await processorAlarm(house, 'gate-api-1', { channels: [told] });
    const keeping = await processorAlarm(house, 'gate-api-1', {
      channels: [told],
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
  }).timeout(60_000);

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
  }).timeout(60_000);

  it('of what was raised and cleared before it became known people are notified once, unless it was over for an hour', async () => {
    const told = await confirmedChannel(house, 'late@example.test');
    const alarm = await processorAlarm(house, 'freight-desk-1', { channels: [told] });
    await until('clear', async () => (await stateOf(alarm)) === 'clear');
    stress('freight-desk-1', 95, 10);
    house.clock.pass(40); // as if Bussola had stood still
    const [incident] = await until('the incident', async () => {
      const found = await incidentsOf(alarm);
      return found.length === 1 && found;
    });
    expect(round((incident!.closedAt! - incident!.openedAt) / minute)).to.be.within(9, 11);
    const [mail] = await until(
      'the mail',
      () => mailsTo('late@example.test').length > 0 && mailsTo('late@example.test')
    );
    expect(mail?.subject).to.match(/^MAJOR freight-desk-1: processor use was above 80 % from \d\d:\d\d to \d\d:\d\d$/);
    await live(3);
    stress('freight-desk-1', 95, 10);
    house.clock.pass(90);
    await until('the second incident', async () => (await incidentsOf(alarm)).length === 2);
    await live(3);
    expect(mailsTo('late@example.test')).to.have.length(1);
  }).timeout(60_000);

  it('judges again at once when its threshold is changed, and lets go of series it no longer watches', async () => {
    const alarm = await processorAlarm(house, 'quay-display-1');
    await until('clear', async () => (await stateOf(alarm)) === 'clear');
    const lower = {
      ...alarm.definition,
      rule: { ...alarm.definition.rule, condition: { is: 'above' as const, threshold: 1 } }
    };
    await forgetJudged(house.bussola.db, alarm.id);
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

  it('an alarm that cannot be judged, whatever the reason, says so, is indeterminate, and its channels are notified', async () => {
    const told = await confirmedChannel(house, 'unjudged@example.test');
    const alarm = await processorAlarm(house, 'quay-display-1', { channels: [told] });
    await until('clear', async () => (await stateOf(alarm)) === 'clear');
    // As a fault of ours would: the engine cannot read how the alarm stands.
    // eslint-disable-next-line @typescript-eslint/unbound-method -- the pool’s functions have no need of `this`
    const { rows } = house.bussola.db;
    const failing: typeof rows = (statement, values) =>
      statement.includes('select alarm_id as "alarmId", key') && values?.[0] === alarm.id
        ? Promise.reject(new RangeError('of the program itself'))
        : rows(statement, values);
    Object.assign(house.bussola.db, { rows: failing });
    house.bussola.changes.tell('definition', { alarmId: alarm.id });
    const states = () => rows<{ state: string }>('select state from alarm_series where alarm_id = $1', [alarm.id]);
    await until('indeterminate', async () => (await states())[0]?.state === 'indeterminate');
    expect((await alarmById(house.bussola.db, alarm.id))?.lastError).to.deep.include({
      message: 'An unexpected error stopped it (RangeError).',
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
    Object.assign(house.bussola.db, { rows });
    house.bussola.changes.tell('definition', { alarmId: alarm.id });
    await until('clear again', async () => (await stateOf(alarm)) === 'clear');
    expect((await alarmById(house.bussola.db, alarm.id))?.lastError).to.equal(null);
  }).timeout(60_000);

  it('a mail that the server refuses is kept with its reason and tried again', async () => {
    const refused = await confirmedChannel(house, 'nobody@refused.test');
    const alarm = await processorAlarm(house, 'tariff-worker-1', {
      channels: [refused],
      rule: { condition: { is: 'above', threshold: 1 }, window: { needs: 1, of: 1 }, whenMissing: 'keep' }
    });
    const [incident] = await until('the incident', async () => {
      const found = await incidentsOf(alarm);
      return found.length > 0 && found;
    });
    const failed = await until('the failure', async () =>
      (await messagesOfIncident(house.bussola.db, incident!.id)).find(({ lastError }) => lastError !== null)
    );
    expect(failed.state).to.equal('queued');
    expect(failed.lastError).to.contain('No such mailbox');
  }).timeout(30_000);
});
