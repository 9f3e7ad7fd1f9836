import { expect } from 'chai';
import { randomUUID } from 'node:crypto';
import { rule } from '../../../../tests/support/alarm';
import {
  connect,
  connectMachines,
  liveMinutes,
  machineNamed,
  processorAlarm,
  stressMachine,
  withHouse
} from '../../../../tests/support/bussola';
import { refusalOf } from '../../../../tests/support/refusal';
import { until } from '../../../../tests/support/until';
import { responseSchema, usualLimits, type AutoResponse } from '../../core/response';
import { shelvingSchema } from '../../core/shelving';
import { after, hour, times } from '../../core/time';
import { listActs } from '../audit/acts';
import { acknowledge } from '../incidents/acknowledge';
import { incidentById, openIncidentsOfAlarm } from '../incidents/incidents';
import { allResources } from '../inventory/resources';
import { confirmChannel } from '../notify/channel-confirmation';
import { draftOf, insertChannel } from '../notify/channels';
import { insertPerson, setRole, type Person } from '../people/people';
import { timelineOf } from '../respond/timeline';
import { addShelving } from '../shelving/manage-shelvings';
import type { Alarm } from '../alarms/alarms';
import { abilitiesOf, actNow, foretell } from './act-now';
import { addResponse, removeResponse, saveResponse } from './manage-responses';
import { responseById, type StoredResponse } from './responses';
import { listRuns, type StoredRun } from './runs';
import { startActing } from './start-acting';

describe('responses', () => {
  const house = withHouse();
  let accountId: number;
  let kaja: Person;
  const server = () => house.bussola;
  const live = (minutes: number) => liveMinutes(house, accountId, minutes);
  const resourceNamed = async (name: string) => {
    const found = (await allResources(server().db)).find((one) => one.name === name && one.type !== 'balancer');
    if (!found) throw new Error(`no resource ${name}`);
    return found;
  };
  const acting = () => ({ by: 'Kaja', personId: kaja.id, accounts: null });
  const byHand = (key: string = randomUUID(), confirmed: string | null = null) => ({ by: 'Kaja', key, confirmed });
  const respond = (alarm: Alarm, more: object = {}): Promise<StoredResponse> =>
    addResponse(
      server(),
      responseSchema.parse({
        ...{ name: `Restart by ${alarm.id}`, alarmId: alarm.id, from: 'major', heldMinutes: 2 },
        ...{ action: { kind: 'restart' }, limits: usualLimits },
        ...more
      }),
      acting()
    );
  const runsOf = ({ id }: StoredResponse) => listRuns(server().db, { responseId: id }, 100);
  const runIs = (response: StoredResponse, state: StoredRun['state']) =>
    until(`the run is ${state}`, async () => (await runsOf(response)).find((run) => run.state === state));
  const ordersOf = (machine: string) =>
    house.standIns.levante.acts.filter(({ resource }) => resource === machineNamed(machine).id);
  const raised = (alarm: Alarm) =>
    until('raised', async () => (await openIncidentsOfAlarm(server().db, alarm.id)).find(() => true));

  before(async function () {
    this.timeout(30_000);
    accountId = await connectMachines(house);
    kaja = await insertPerson(server().db, {
      ...{ name: 'kaja', displayName: 'Kaja', role: 'administrator', passwordHash: '', zone: 'UTC' },
      createdAt: house.clock.now()
    });
  });
  afterEach(() => (house.standIns.levante.actMode = 'usual'));

  it('by hand: what can be done is asked, what would happen is said, and it is done once for each key', async () => {
    const { id } = await resourceNamed('freight-desk-1');
    expect(await abilitiesOf(server(), id)).to.deep.equal({
      ...{ kinds: ['restart', 'stop', 'start', 'size'], isStopped: false, count: null },
      size: { now: 'medium', choices: ['small', 'medium', 'large', 'huge'] }
    });
    const order = { resourceId: id, action: { kind: 'restart' }, incidentId: null } as const;
    expect(await foretell(server(), order)).to.deep.equal({
      ...{ says: ['It answers nothing for about a minute.', 'What it holds in memory is lost.'], isDangerous: false }
    });
    expect(ordersOf('freight-desk-1'), 'nothing is done by it').to.deep.equal([]);
    const key = randomUUID();
    expect((await actNow(server(), order, byHand(key))).state).to.equal('going');
    expect((await refusalOf(actNow(server(), order, byHand())))?.code).to.equal('changed-meanwhile');
    house.clock.pass(1.2);
    await until('done', async () => (await listRuns(server().db, { resourceId: id }, 1))[0]?.state === 'done');
    const again = await actNow(server(), order, byHand(key));
    expect(again.state, 'what it came to').to.equal('done');
    expect(ordersOf('freight-desk-1')).to.have.length(1);
    const other = { ...order, action: { kind: 'stop' } } as const;
    expect((await refusalOf(actNow(server(), other, byHand(key))))?.message).to.match(/used for something else/);
  }).timeout(30_000);

  it('by hand: what is dangerous wants the name, what cannot be done is refused with why, what is unknown as well', async () => {
    const { id, name } = await resourceNamed('freight-desk-1');
    const stop = { resourceId: id, action: { kind: 'stop' }, incidentId: null } as const;
    expect((await foretell(server(), stop)).isDangerous).to.equal(true);
    for (const confirmed of [null, 'Freight-Desk-1', ''])
      expect((await refusalOf(actNow(server(), stop, byHand(randomUUID(), confirmed))))?.path).to.deep.equal([
        'confirmed'
      ]);
    await actNow(server(), stop, byHand(randomUUID(), name));
    house.clock.pass(0.5);
    await until('stopped', async () => (await listRuns(server().db, { resourceId: id }, 1))[0]?.state === 'done');
    const start = { ...stop, action: { kind: 'start' } } as const;
    expect((await refusalOf(actNow(server(), { ...stop, action: { kind: 'restart' } }, byHand())))?.message).to.equal(
      'It is stopped already.'
    );
    await actNow(server(), start, byHand());
    expect((await refusalOf(actNow(server(), { ...start, resourceId: 999_999 }, byHand())))?.code).to.equal(
      'not-found'
    );
    const wrong = { ...start, incidentId: 999_999, resourceId: (await resourceNamed('gate-api-2')).id };
    expect((await refusalOf(foretell(server(), wrong)))?.message).to.equal('It is running.');
  }).timeout(30_000);

  it('act once an alarm has held for so long, say on its timeline what came of it, and are written down as an act', async () => {
    const alarm = await processorAlarm(house, 'gate-api-1', { rule: rule(1, 1) });
    const response = await respond(alarm);
    await live(2);
    stressMachine(house, 'gate-api-1', 97, 120);
    await live(3);
    const incident = await raised(alarm);
    expect(ordersOf('gate-api-1'), 'not yet').to.deep.equal([]);
    await live(3);
    await until('told', () => ordersOf('gate-api-1').length === 1);
    await live(6);
    const done = await runIs(response, 'done');
    await until('helped', async () => (await runsOf(response))[0]?.effect === 'cleared');
    expect(ordersOf('gate-api-1')).to.have.length(1);
    expect(ordersOf('gate-api-1')[0]?.key).to.equal(done.key);
    const timeline = await timelineOf(server().db, (await incidentById(server().db, incident.id)) as never);
    const [entry, ...others] = timeline.filter(({ kind }) => kind === 'response');
    expect(entry?.text).to.match(/^gate-api-1: Restarted; cleared .+ later\.$/);
    expect([entry?.aside, others.length]).to.deep.equal([response.response.name, 0]);
    const acts = await listActs(
      server().db,
      { text: 'Acts by itself', personId: null, outcome: null, from: null, to: null },
      10,
      null
    );
    expect(acts.map(({ by, means, subject }) => [by, means, subject])).to.deep.equal([
      [response.response.name, 'response', 'gate-api-1']
    ]);
    await removeResponse(server(), response.id);
  }).timeout(90_000);

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
  }).timeout(90_000);

  it('stop after failures, and act again once somebody has saved them', async () => {
    house.standIns.levante.actMode = 'failing';
    const alarm = await processorAlarm(house, 'quay-display-1', { rule: rule(1, 1) });
    const limits = { ...usualLimits, restMinutes: 1, mostPerHour: 10 };
    const response = await respond(alarm, { heldMinutes: 0, limits });
    await live(2);
    stressMachine(house, 'quay-display-1', 97, 120);
    await live(10);
    const stopped = await until('stopped', async () => {
      const now = await responseById(server().db, response.id);
      return now?.stoppedAt === null ? null : now;
    });
    expect(stopped?.stoppedWhy).to.equal('2 times on end it failed, or did not help.');
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
  }).timeout(120_000);

  it('ask the provider where the answer is lost; what it never received was not done, and is never sent again', async () => {
    const { id } = await resourceNamed('tariff-worker-1');
    const restart = { resourceId: id, action: { kind: 'restart' }, incidentId: null } as const;
    const newest = async () => (await listRuns(server().db, { resourceId: id }, 1))[0];
    house.standIns.levante.actMode = 'losing';
    await actNow(server(), restart, byHand());
    house.clock.pass(1.2);
    await until('done', async () => (await newest())?.state === 'done');
    expect(ordersOf('tariff-worker-1')).to.have.length(1);
    house.standIns.levante.actMode = 'lost';
    expect((await actNow(server(), restart, byHand())).state).to.equal('sending');
    house.clock.pass(1.2);
    await until('failed', async () => (await newest())?.state === 'failed');
    expect((await newest())?.says).to.equal('Its provider never received it: nothing was done.');
    expect(ordersOf('tariff-worker-1')).to.have.length(1);
    house.standIns.levante.actMode = 'losing';
    await actNow(server(), restart, byHand());
    house.standIns.levante.faultMode = 'down';
    house.clock.pass(10);
    await until('asked', async () => /asked/.test((await newest())?.says ?? ''));
    house.clock.pass(10);
    await until('nobody knows', async () => (await newest())?.state === 'unknown');
    house.standIns.levante.faultMode = 'usual';
  }).timeout(60_000);

  it('say that nobody knows, where the provider cannot say what came of it', async () => {
    const fleet = { provider: 'maestro', keyId: 'bussola', secret: 'demo-only-maestro-3f81b6d2' };
    await connect(house, 'fleet-edge', fleet);
    const workload = await until('found', async () =>
      (await allResources(server().db)).find(({ name, type }) => name === 'quote' && type === 'workload')
    );
    expect(await abilitiesOf(server(), workload.id)).to.deep.equal({
      ...{ kinds: ['restart', 'count'], isStopped: false, size: null, count: { now: 3, least: 0, most: 10 } }
    });
    const more = { resourceId: workload.id, action: { kind: 'count', to: 5 }, incidentId: null } as const;
    expect((await foretell(server(), more)).says).to.deep.equal(['There are 5 instead of 3.']);
    expect((await actNow(server(), more, byHand())).state).to.equal('done');
    expect((await abilitiesOf(server(), workload.id)).count?.now).to.equal(5);
    house.standIns.maestro.actMode = 'losing';
    const lost = await actNow(server(), { ...more, action: { kind: 'restart' } }, byHand());
    house.standIns.maestro.actMode = 'usual';
    expect(lost.state).to.equal('unknown');
    expect(lost.says).to.match(/The answer is lost\.$/);
  }).timeout(60_000);

  it('call a webhook of ours, signed, once', async () => {
    const address = `${house.standIns.url}/desk/events`;
    const draft = draftOf({ kind: 'webhook', name: 'Desk', address, mode: 'structured' });
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
    expect(events.map(({ id, verified }) => [id, verified])).to.deep.equal([[run.key, true]]);
    await removeResponse(server(), response.id);
  }).timeout(60_000);

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
    expect((await refusalOf(saveResponse(server(), response.id, 1, changed, acting())))?.code).to.equal(
      'changed-meanwhile'
    );
    expect((await refusalOf(addResponse(server(), changed, { ...acting(), accounts: [accountId] })))?.code).to.equal(
      'not-allowed'
    );
    expect((await refusalOf(addResponse(server(), { ...changed, alarmId: 9999 }, acting())))?.path).to.deep.equal([
      'alarmId'
    ]);
    await setRole(server().db, kaja.id, 'editor');
    await live(2);
    stressMachine(house, 'gate-api-1', 97, 20);
    await live(4);
    const stopped = await until('stopped', async () => {
      const now = await responseById(server().db, response.id);
      return now?.stoppedAt === null ? null : now;
    });
    expect(stopped?.stoppedWhy).to.equal('Kaja may not act on gate-api-1 any more.');
    expect(await runsOf(response)).to.deep.equal([]);
    await setRole(server().db, kaja.id, 'administrator');
    await removeResponse(server(), response.id);
    expect((await refusalOf(removeResponse(server(), response.id)))?.code).to.equal('not-found');
  }).timeout(60_000);
});
