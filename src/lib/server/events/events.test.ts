import { expect } from 'chai';
import { CloudEvent, HTTP } from 'cloudevents';
import { connectMachines, machineNamed, mailsTo, routeTo, withHouse } from '../../../../tests/support/bussola';
import { until } from '../../../../tests/support/until';
import { eventRuleSchema } from '../../core/events';
import { minute, range, type Instant } from '../../core/time';
import { eventsOfIncident } from '../incidents/events';
import { closeIncident } from '../incidents/close';
import { incidentById, type Incident } from '../incidents/incidents';
import { openIncidents } from '../incidents/open';
import { allDropped } from '../intake/ledger/collections';
import { saveEvent } from '../intake/events/events';
import { removeAccount } from '../intake/pull/remove-account';
import { keyByText, makeKey, type Key } from '../intake/receive/keys';
import { timelineOf } from '../respond/timeline';
import { tryIncident } from '../respond/try-incident';
import { addEventRule, removeEventRule, saveEventRule } from './manage-event-rules';
import { eventById, listEvents } from './outside-events';
import { keepEvents } from './receive-events';
import { tryOnPast } from './try-event-rule';

describe('event rules, from an event to the mail', () => {
  const house = withHouse();
  let accountId = 0;
  let key: Key;
  let next = 1;
  before(async function () {
    this.timeout(90_000);
    accountId = await connectMachines(house);
    const { db, clock } = house.bussola;
    const { text } = await db.transaction((within) =>
      makeKey(within, {
        ...{ name: 'releases', scopes: ['events'], createdBy: 'a test', createdAt: clock.now(), expiresAt: null },
        ...{ mostSeries: 10, mostBytesADay: 10_000_000 }
      })
    );
    key = (await keyByText(db, text, clock.now()))!;
  });
  const rule = (more: object) =>
    eventRuleSchema.parse({ severity: 'critical', clears: { by: 'event', when: { types: ['resumed'] } }, ...more });
  const add = (more: object) => addEventRule(house.bussola, rule(more), 'Nerea Olmo');
  const at = (minutes: number) => (house.clock.now() + minutes * minute) as Instant;
  /** An event of the provider, on a machine. */
  async function happens(kind: string, machine = 'booking-web-1', when = at(0)): Promise<void> {
    await saveEvent(house.bussola.db, accountId, {
      ...{ id: `e-${next++}`, at: when, resource: machineNamed(machine).id, kind, text: `It ${kind}.` },
      subject: { machine }
    });
    house.bussola.changes.tell('account', { accountId });
  }
  async function incidentsOf(ruleId: number): Promise<Incident[]> {
    const rows = await house.bussola.db.rows<{ id: number }>(
      'select id from incidents where event_rule_id = $1 order by id',
      [ruleId]
    );
    return (await Promise.all(rows.map(({ id }) => incidentById(house.bussola.db, id)))).flatMap((one) => one ?? []);
  }
  const seen = () =>
    until('seen', async () => {
      const rows = await house.bussola.db.rows('select 1 from events where judged_at is null');
      return rows.length === 0;
    });

  it('raises on the resource, notifies by its route once however often it happens, and says when it is clear', async () => {
    const route = await routeTo(house, 'data@example.test');
    const { id } = await add({ name: 'Copy stalled', when: { types: ['stalled'] }, route, labels: { team: 'data' } });
    await happens('stalled');
    await until('raised', async () => (await incidentsOf(id)).length === 1);
    await happens('stalled');
    await seen();
    const [incident] = await incidentsOf(id);
    expect(incident).to.deep.include({
      ...{ alarm: 'Copy stalled', alarmId: null, eventRuleId: id, eventText: 'It stalled.', severity: 'critical' },
      ...{ resource: 'booking-web-1', service: 'machines', account: 'corallo-prod', closedAt: null }
    });
    await until('a mail', () => mailsTo(house, 'data@example.test').length === 1);
    const [mail] = mailsTo(house, 'data@example.test');
    expect(mail?.subject).to.match(/^CRITICAL booking-web-1: copy stalled since \d\d:\d\d$/);
    expect(mail?.text).to.contain('It stalled.').and.to.contain(`/incidents/${incident?.id}`);
    expect((await openIncidents(house.bussola.db, 10)).map((one) => one.id)).to.include(incident?.id);
    const tried = await tryIncident(house.bussola.db, { incidentId: incident!.id }, at(0));
    expect(tried.route).to.deep.include({ id: route, isNamed: true });
    house.clock.pass(3);
    await happens('resumed');
    await until('clear', async () => (await incidentsOf(id))[0]?.closedAt !== null);
    await until('another mail', () => mailsTo(house, 'data@example.test').length === 2);
    expect(mailsTo(house, 'data@example.test').map(({ subject }) => subject)).to.include(
      'CLEAR booking-web-1: copy stalled, after 3 min'
    );
    const lines = (await timelineOf(house.bussola.db, incident!)).filter(({ kind }) => kind === 'state');
    expect(lines.map(({ text }) => text)).to.deep.equal(['Raised, critical.', 'Clear again.']);
    await removeEventRule(house.bussola, id);
  }).timeout(180_000);

  it('keeps things apart, is cleared by time, and is over when somebody closes it', async () => {
    const timed = await add({ name: 'Burst', when: { types: ['burst'] }, clears: { by: 'time', after: 'PT10M' } });
    const byHand = await add({ name: 'Manual', when: { types: ['burst'] }, clears: { by: 'hand' } });
    await happens('burst');
    await happens('burst', 'booking-web-2');
    await seen();
    expect(await incidentsOf(timed.id)).to.have.length(2);
    const [first] = await incidentsOf(byHand.id);
    house.clock.pass(11);
    await until('clear', async () => (await incidentsOf(timed.id)).every(({ closedAt }) => closedAt !== null));
    const [{ openedAt, closedAt }] = (await incidentsOf(timed.id)) as [Incident];
    expect((closedAt! - openedAt) / minute).to.equal(10);
    expect((await incidentsOf(byHand.id)).every((one) => one.closedAt === null)).to.equal(true);
    await closeIncident(house.bussola, first!.id, { outcome: 'fixed', text: 'by hand' }, 'Nerea Olmo');
    await happens('burst');
    await seen();
    const now = await incidentsOf(byHand.id);
    expect(now.map((one) => one.closedAt === null)).to.deep.equal([false, true, true]);
    await saveEventRule(house.bussola, timed.id, 1, { ...timed.rule, enabled: false }, 'Nerea Olmo');
    expect(
      (await incidentsOf(timed.id)).every((one) => one.closedAt !== null),
      'switched off'
    ).to.equal(true);
    for (const { id } of [timed, byHand]) await removeEventRule(house.bussola, id);
    expect((await incidentsOf(byHand.id)).every((one) => one.closedAt !== null)).to.equal(true);
  }).timeout(180_000);

  it('what comes late is in order all the same: an older event clears nothing, and what was over is history', async () => {
    const { id } = await add({
      name: 'Late',
      when: { types: ['lost'] },
      clears: { by: 'event', when: { types: ['found'] } }
    });
    await happens('found', 'gate-api-1', at(-5));
    await seen();
    await happens('lost', 'gate-api-1', at(-20));
    await seen();
    expect((await incidentsOf(id)).map(({ openedAt, closedAt }) => [openedAt, closedAt])).to.deep.equal([
      [at(-20), at(-5)]
    ]);
    for (const [kind, minutes] of [
      ['lost', -2],
      ['found', -3],
      ['lost', -3 * 24 * 60]
    ] as const) {
      await happens(kind, 'gate-api-1', at(minutes));
      await seen();
    }
    expect((await incidentsOf(id)).map(({ closedAt }) => closedAt)).to.deep.equal([at(-5), null]);
    // History, such as of an account that has just been connected: shown, and nobody is notified.
    await happens('lost', 'gate-api-2', at(-4 * 24 * 60));
    await happens('found', 'gate-api-2', at(-3 * 24 * 60));
    await seen();
    const [past] = (await incidentsOf(id)).filter(({ resource }) => resource === 'gate-api-2');
    expect([past?.judgedAfterwards, past?.openedAt, past?.closedAt]).to.deep.equal([
      true,
      at(-4 * 24 * 60),
      at(-3 * 24 * 60)
    ]);
    expect(await eventsOfIncident(house.bussola.db, past!.id)).to.deep.equal([]);
    await removeEventRule(house.bussola, id);
  }).timeout(180_000);

  it('events of programs are stored once, find the resource that they name, and raise as those of providers do', async () => {
    const { id } = await add({
      name: 'Release failed',
      when: { types: ['test.corallo.*'], attributes: [{ name: 'outcome', is: 'failed' }] },
      clears: { by: 'event', when: { attributes: [{ name: 'outcome', is: 'done' }] } }
    });
    const send = async (events: readonly object[]) => {
      const body = Buffer.from(JSON.stringify(events));
      const task = { body, isGzip: false, now: house.clock.now(), inHeaders: null };
      return keepEvents(house.bussola, key, await house.bussola.parsers.events(task));
    };
    const release = (name: string, outcome: string) => ({
      ...{ specversion: '1.0', id: name, source: '/release', type: 'test.corallo.release', subject: 'booking-web-1' },
      data: { outcome, message: `The release ${outcome}.` }
    });
    expect(await send([release('1', 'failed'), release('1', 'failed'), { id: 'x' }])).to.deep.equal({
      ...{ accepted: 1, known: 1, rejected: 1 },
      faults: ['Event 3: Its specversion is not 1.0.']
    });
    expect(await send([release('1', 'failed')])).to.deep.include({ accepted: 0, known: 1 });
    await seen();
    const [incident] = await incidentsOf(id);
    expect(incident).to.deep.include({
      resource: 'booking-web-1',
      account: 'corallo-prod',
      eventText: 'The release failed.'
    });
    // In binary mode, as the SDK sends it.
    const { headers, body } = HTTP.binary(
      new CloudEvent({
        ...release('2', 'done'),
        time: new Date(at(0)).toISOString(),
        data: { outcome: 'done', message: 'The release is done.' }
      })
    );
    const named = Object.fromEntries(
      Object.entries(headers).map(([name, value]) => [name.toLowerCase(), String(value)])
    );
    const received = await house.bussola.parsers.events({
      ...{ body: Buffer.from(String(body)), isGzip: false, now: house.clock.now() },
      inHeaders: { mediaType: 'application/json', headers: named }
    });
    expect(await keepEvents(house.bussola, key, received)).to.deep.include({ accepted: 1, rejected: 0 });
    await until('clear', async () => (await incidentsOf(id))[0]?.closedAt !== null);
    const all = await listEvents(
      house.bussola.db,
      { range: range(at(-60), at(1)), text: 'RELEASE is', type: null, account: null, resourceId: null },
      10
    );
    expect(all.map(({ source, type, resource }) => [source, type, resource])).to.deep.equal([
      ['/release', 'test.corallo.release', 'booking-web-1']
    ]);
    expect((await eventById(house.bussola.db, all[0]!.accountId, all[0]!.id))?.attributes['outcome']).to.equal('done');
    await removeEventRule(house.bussola, id);
  }).timeout(180_000);

  it('is tried on the past as it would have been judged, changed by one at a time, and counts as a metric', async () => {
    const wanted = rule({ name: 'Copy stalled', when: { types: ['stalled'] } });
    const tried = await tryOnPast(house.bussola, wanted);
    expect([tried.matches, tried.count]).to.deep.equal([2, 1]);
    const made = await add({ name: 'Counted', when: { types: ['counted'] }, enabled: false });
    await happens('counted');
    await seen();
    expect(await incidentsOf(made.id), 'one that is off raises nothing').to.deep.equal([]);
    const on = rule({ name: 'Counted', when: { types: ['counted'] } });
    await saveEventRule(house.bussola, made.id, 1, on, 'Nerea Olmo');
    let code = '';
    await saveEventRule(house.bussola, made.id, 1, on, 'Ivo').catch(
      (error: unknown) => (code = (error as { code: string }).code)
    );
    expect(code).to.equal('changed-meanwhile');
    await happens('counted');
    await happens('counted');
    await seen();
    const value = async () => {
      const rows = await house.bussola.db.rows(
        `select 1 from series join resources on resources.id = series.resource_id where metric = 'events.matched' and resources.name = 'Counted'`
      );
      return rows.length > 0;
    };
    house.clock.pass(1);
    await until('counted', value);
    await removeEventRule(house.bussola, made.id);
  }).timeout(180_000);

  it('an event that is seen again, as after a kill, raises nothing twice', async () => {
    const { id } = await add({ name: 'Once', when: { types: ['once'] } });
    await happens('once');
    await seen();
    await house.bussola.db.rows(`update events set judged_at = null where kind = 'once'`);
    await seen();
    expect(await incidentsOf(id)).to.have.length(1);
    await removeEventRule(house.bussola, id);
  });

  it('what is raised on an account ends when the account is removed', async () => {
    const { db, clock } = house.bussola;
    const { id } = await add({ name: 'Of a robot', when: { types: ['robot'] } });
    const { text } = await db.transaction((within) =>
      makeKey(within, {
        ...{ name: 'robot', scopes: ['events'], createdBy: 'a test', createdAt: clock.now(), expiresAt: null },
        ...{ mostSeries: 10, mostBytesADay: 10_000_000 }
      })
    );
    const robot = (await keyByText(db, text, clock.now()))!;
    const event = { specversion: '1.0', id: '1', source: '/robot', type: 'robot' };
    const body = Buffer.from(JSON.stringify(event));
    const task = { body, isGzip: false, now: clock.now(), inHeaders: null };
    await keepEvents(house.bussola, robot, await house.bussola.parsers.events(task));
    await until('raised', async () => (await incidentsOf(id)).some(({ closedAt }) => closedAt === null));
    await removeAccount(house.bussola, robot.accountId, { erase: false, by: 'Kaja Tamm' });
    await until('ended', async () => (await incidentsOf(id)).every(({ closedAt }) => closedAt !== null));
    await removeEventRule(house.bussola, id);
  }).timeout(180_000);

  it('a storm of events is judged in turn, every thing has its incident, and a rule floods nobody', async () => {
    const { id } = await add({ name: 'Storm', when: { types: ['storm'] }, clears: { by: 'hand' } });
    const send = async (count: number, things: number, of: string) => {
      const events = Array.from({ length: count }, (_, index) => ({
        ...{ specversion: '1.0', id: `${of}-${index}`, source: '/storm', type: 'storm' },
        subject: `${of}-${index % things}`
      }));
      const body = Buffer.from(JSON.stringify(events));
      const task = { body, isGzip: false, now: house.clock.now(), inHeaders: null };
      await keepEvents(house.bussola, key, await house.bussola.parsers.events(task));
      await seen();
    };
    await send(900, 300, 'one');
    expect(await incidentsOf(id)).to.have.length(300);
    await send(1000, 1000, 'other');
    const { db } = house.bussola;
    const [{ count }] = (await db.rows<{ count: number }>(
      'select count(*)::integer as count from incidents where event_rule_id = $1',
      [id]
    )) as [{ count: number }];
    expect(count).to.equal(1000);
    const dropped = (await allDropped(db)).find(({ reason }) => reason.includes('1000 incidents'));
    expect(dropped?.count).to.equal(300);
    await removeEventRule(house.bussola, id);
  }).timeout(180_000);
});
