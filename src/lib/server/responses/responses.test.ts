import { expect } from 'chai';
import { rule } from '../../../../tests/support/alarm';
import { processorAlarm, stressMachine } from '../../../../tests/support/bussola';
import { refusalOf } from '../../../../tests/support/refusal';
import { withActing } from '../../../../tests/support/responses';
import { until } from '../../../../tests/support/until';
import { usualLimits, type AutoResponse } from '../../core/response';
import { shelvingSchema } from '../../core/shelving';
import { after, hour, times } from '../../core/time';
import { listActs } from '../audit/acts';
import { acknowledge } from '../incidents/acknowledge';
import { incidentById } from '../incidents/incidents';
import { confirmChannel } from '../notify/channel-confirmation';
import { draftOf, insertChannel } from '../notify/channels';
import { setRole } from '../people/people';
import { timelineOf } from '../respond/timeline';
import { addShelving } from '../shelving/manage-shelvings';
import { actNow } from './act-now';
import { addResponse, removeResponse, saveResponse } from './manage-responses';
import type { StoredResponse } from './responses';
import { startActing } from './start-acting';
import { Looks, takeUp } from './take-up';

describe('responses', () => {
  const {
    house,
    accountId,
    kaja,
    acting,
    live,
    resourceNamed,
    byHand,
    respond,
    runsOf,
    runIs,
    stopped,
    ordersOf,
    raised
  } = withActing();
  const server = () => house.bussola;

  it('act once an alarm has held for so long, say on its timeline what came of it, and are written down as an act', async () => {
    const alarm = await processorAlarm(house, 'gate-api-1', { rule: rule(1, 1) });
    const response = await respond(alarm, { heldMinutes: 6 });
    await live(2);
    stressMachine(house, 'gate-api-1', 97, 120);
    await live(4);
    const incident = await raised(alarm);
    expect(ordersOf('gate-api-1'), 'not yet').to.deep.equal([]);
    await live(5);
    await until('it is told', () => ordersOf('gate-api-1').length === 1);
    await live(6);
    const done = await runIs(response, 'done');
    await until('it helped', async () => (await runsOf(response))[0]?.effect === 'cleared');
    expect(ordersOf('gate-api-1').map(({ key }) => key)).to.deep.equal([done.key]);
    const timeline = await timelineOf(server().db, (await incidentById(server().db, incident.id)) as never);
    const [entry, ...others] = timeline.filter(({ kind }) => kind === 'response');
    expect(entry?.text).to.match(/^gate-api-1: Restarted; cleared .+ later\.$/);
    expect([entry?.aside, others.length]).to.deep.equal([response.response.name, 0]);
    const all = { text: 'Acts by itself', personId: null, outcome: null, from: null, to: null };
    expect(
      (await listActs(server().db, all, 10, null)).map(({ by, means, subject }) => [by, means, subject])
    ).to.deep.equal([[response.response.name, 'response', 'gate-api-1']]);
    await removeResponse(server(), response.id);
  }).timeout(240_000);

  it('leave alone what somebody has acknowledged, what is maintained, and what is clear before', async () => {
    const alarm = await processorAlarm(house, 'gate-api-2', { rule: rule(1, 1) });
    const response = await respond(alarm);
    await live(2);
    const resource = await resourceNamed('gate-api-2');
    const shelving = shelvingSchema.parse({
      ...{ kind: 'maintenance', reason: 'Disks are exchanged', zone: 'UTC', scope: { resources: [resource.name] } },
      ...{ from: house.clock.now(), to: after(house.clock.now(), times(8, hour)) }
    });
    await addShelving(server(), shelving, 'test');
    stressMachine(house, 'gate-api-2', 97, 8);
    await live(6);
    expect((await runIs(response, 'held')).says).to.equal('Maintenance is planned for now.');
    await live(8);
    expect((await runIs(response, 'dropped')).says).to.equal('It was clear before.');
    const second = await processorAlarm(house, 'booking-web-3', { rule: rule(1, 1) });
    const other = await respond(second, { heldMinutes: 3 });
    await live(2);
    stressMachine(house, 'booking-web-3', 97, 20);
    await live(3);
    await acknowledge(server(), (await raised(second)).id, 'Nerea');
    await live(5);
    expect(await runsOf(other)).to.deep.equal([]);
    expect([...ordersOf('gate-api-2'), ...ordersOf('booking-web-3')]).to.deep.equal([]);
    for (const { id } of [response, other]) await removeResponse(server(), id);
  }).timeout(240_000);

  it('wait where somebody did something with the resource lately, and ask its provider nothing meanwhile', async () => {
    const desk = await resourceNamed('freight-desk-1');
    await actNow(server(), { resourceId: desk.id, action: { kind: 'restart' }, incidentId: null }, byHand());
    const alarm = await processorAlarm(house, 'freight-desk-1', { rule: rule(1, 1) });
    const response = await respond(alarm, { heldMinutes: 0 });
    await live(3);
    stressMachine(house, 'freight-desk-1', 97, 20);
    await live(4);
    expect((await runIs(response, 'held')).says).to.equal('Nothing is done with it for 60 min after something was.');
    // Were it asked, it would say that it is down.
    house.standIns.levante.faultMode = 'down';
    house.clock.pass(2);
    for (let looks = 0; looks < 3; looks++) await takeUp(server(), new Looks());
    expect((await runsOf(response))[0]?.says).to.equal('Nothing is done with it for 60 min after something was.');
    await removeResponse(server(), response.id);
    expect(ordersOf('freight-desk-1')).to.have.length(1);
  }).timeout(180_000);

  it('stop after failures, and act again once somebody has saved them', async () => {
    house.standIns.levante.actMode = 'failing';
    const alarm = await processorAlarm(house, 'quay-display-1', { rule: rule(1, 1) });
    const limits = { ...usualLimits, restMinutes: 1, mostPerHour: 10 };
    const response = await respond(alarm, { heldMinutes: 0, limits });
    await live(2);
    stressMachine(house, 'quay-display-1', 97, 120);
    await live(10);
    expect((await stopped(response)).stoppedWhy).to.equal('2 times on end it failed, or did not help.');
    expect((await runsOf(response)).map(({ state, says }) => [state, says])).to.deep.equal(
      Array(2).fill(['failed', 'The restart failed: nothing was changed.'])
    );
    await live(3);
    expect(await runsOf(response)).to.have.length(2);
    house.standIns.levante.actMode = 'usual';
    await saveResponse(server(), response.id, response.version, response.response, acting());
    await live(6);
    await runIs(response, 'done');
    await removeResponse(server(), response.id);
  }).timeout(300_000);

  it('call a webhook of ours, signed, once, in the mode that its channel says', async () => {
    const address = `${house.standIns.url}/desk/events`;
    const draft = draftOf({ kind: 'webhook', name: 'Desk', address, mode: 'binary' });
    const channel = await insertChannel(server().db, server().secrets, draft, { at: house.clock.now(), by: 'test' });
    await confirmChannel(server().db, channel.id, house.clock.now());
    house.standIns.desk.secret = draft.secret.secrets?.[0]?.secret ?? '';
    const alarm = await processorAlarm(house, 'tariff-worker-2', { rule: rule(1, 1) });
    const response = await respond(alarm, { heldMinutes: 0, action: { kind: 'webhook', channelId: channel.id } });
    await live(2);
    stressMachine(house, 'tariff-worker-2', 97, 10);
    await live(4);
    const run = await runIs(response, 'done');
    const events = house.standIns.desk.events.all.filter(({ type }) => type === 'bussola.response');
    expect(events.map(({ id, verified, mode }) => [id, verified, mode])).to.deep.equal([[run.key, true, 'binary']]);
    await removeResponse(server(), response.id);
  }).timeout(180_000);

  it('with two engines act once for each incident, and never with more than a share of a group at a time', async () => {
    const machines = ['booking-web-1', 'booking-web-2', 'booking-web-4'];
    const [group] = await server().db.rows<{ id: number }>(
      `insert into groups (name, rule, created_at, created_by, changed_at, changed_by) values ('web', $1, 0, 'test', 0, 'test') returning id`,
      [JSON.stringify({ version: 1, match: 'any', conditions: [{ label: 'resource', is: machines }] })]
    );
    const alarms = [];
    for (const machine of machines) alarms.push(await processorAlarm(house, machine, { rule: rule(1, 1) }));
    const second = startActing(server());
    try {
      const limits = { ...usualLimits, group: { groupId: group?.id ?? 0, oneIn: 3 } };
      const responses: StoredResponse[] = [];
      for (const alarm of alarms) responses.push(await respond(alarm, { heldMinutes: 0, limits }));
      await live(2);
      for (const machine of machines) stressMachine(house, machine, 97, 120);
      await live(30);
      await until('all were restarted', () => machines.every((machine) => ordersOf(machine).length === 1));
      const spans = machines
        .map((machine) => ordersOf(machine)[0])
        .map((act) => [act?.at ?? 0, act?.until ?? 0] as const);
      for (const [at] of spans) expect(spans.filter(([from, to]) => from <= at && at < to)).to.have.length(1);
      for (const response of responses) await removeResponse(server(), response.id);
    } finally {
      await second.stop();
    }
  }).timeout(180_000);

  it('stop where whoever saved them may act no more; a change of somebody else is not lost', async () => {
    const alarm = await processorAlarm(house, 'gate-api-1', { rule: rule(1, 1) });
    const response = await respond(alarm, { heldMinutes: 0 });
    const changed: AutoResponse = { ...response.response, name: 'Another' };
    await saveResponse(server(), response.id, 1, changed, acting());
    const again = saveResponse(server(), response.id, 1, changed, acting());
    expect((await refusalOf(again))?.code).to.equal('changed-meanwhile');
    const ofSome = { ...acting(), accounts: [accountId()] };
    expect((await refusalOf(addResponse(server(), changed, ofSome)))?.code).to.equal('not-allowed');
    for (const [wrong, path] of [
      [{ alarmId: 9999 }, ['alarmId']],
      [{ action: { kind: 'webhook', channelId: 9999 } }, ['action', 'channelId']],
      [{ limits: { ...usualLimits, group: { groupId: 9999, oneIn: 3 } } }, ['limits', 'group', 'groupId']]
    ] as const)
      expect((await refusalOf(addResponse(server(), { ...changed, ...wrong }, acting())))?.path).to.deep.equal(path);
    await setRole(server().db, kaja().id, 'editor');
    await live(2);
    stressMachine(house, 'gate-api-1', 97, 20);
    await live(4);
    expect((await stopped(response)).stoppedWhy).to.equal('Kaja may not act on gate-api-1 any more.');
    expect(await runsOf(response)).to.deep.equal([]);
    await setRole(server().db, kaja().id, 'administrator');
    await removeResponse(server(), response.id);
    expect((await refusalOf(removeResponse(server(), response.id)))?.code).to.equal('not-found');
  }).timeout(180_000);
});
