import { rule, threshold } from '../../../../tests/support/alarm';
import { expect } from 'chai';
import { confirmedChannel, processorAlarm, routeTo, withMachines } from '../../../../tests/support/bussola';
import { until } from '../../../../tests/support/until';
import { routeSchema } from '../../core/notify/route';
import { minute } from '../../core/time';
import { acknowledge, unacknowledge } from '../incidents/acknowledge';
import { giveChannel } from '../notify/channels';
import { insertPerson } from '../people/people';
import { whoIsNext } from './who-is-next';
import { addRoute, removeRoute } from './manage-routes';
import { eventsOfIncident } from '../incidents/events';
import { deafThreads, messagesOfIncident } from '../notify/outbox-lists';

describe('who is notified of what happened', () => {
  const { house, stateOf, incidentsOf, mailsTo, stress, live } = withMachines();
  const { round } = Math;

  it('of what was raised and cleared before it became known people are notified once, unless it was over for an hour', async () => {
    const told = await routeTo(house, 'late@example.test');
    const alarm = await processorAlarm(house, 'freight-desk-1', { route: told });
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
  }).timeout(180_000);

  it('its severity goes up and down as one incident; people hear of it when it becomes graver', async () => {
    const told = await routeTo(house, 'levels@example.test');
    const alarm = await processorAlarm(house, 'booking-web-3', {
      route: told,
      rule: rule(1, 1, { levels: [threshold('above', 80), threshold('above', 95, 'critical')] })
    });
    await until('clear', async () => (await stateOf(alarm)) === 'clear');
    const severity = async () => (await incidentsOf(alarm))[0]?.severity;
    stress('booking-web-3', 88, 3);
    await live(3);
    await until('major', async () => (await severity()) === 'major');
    stress('booking-web-3', 99, 3);
    await live(3);
    await until('critical', async () => (await severity()) === 'critical');
    stress('booking-web-3', 88, 3);
    await live(3);
    await until('major again', async () => (await severity()) === 'major');
    stress('booking-web-3', 20, 4);
    await live(3);
    await until('clear', async () => (await stateOf(alarm)) === 'clear');
    const [incident, ...others] = await incidentsOf(alarm);
    expect([others, incident?.severity]).to.deep.equal([[], 'critical']);
    const events = await eventsOfIncident(house.bussola.db, incident!.id);
    expect(events.map(({ kind, severity }) => `${kind} ${severity}`)).to.deep.equal([
      'opened major',
      'severity critical',
      'severity major',
      'closed critical'
    ]);
    await until('its mails', () => mailsTo('levels@example.test').length === 3);
    expect(
      mailsTo('levels@example.test')
        .map(({ subject }) => subject.split(' ')[0])
        .sort()
    ).to.deep.equal(['CLEAR', 'CRITICAL', 'MAJOR']);
  }).timeout(240_000);

  it('an incident of which nobody can be notified holds no other up, and is tried again', async () => {
    const { db } = house.bussola;
    const told = await routeTo(house, 'held@example.test');
    await db.rows(
      `create function refuse_mail() returns trigger language plpgsql as 'begin raise exception ''of the program itself''; end'`
    );
    const stuck = await processorAlarm(house, 'quay-display-1', { name: 'Stuck', route: told });
    await until('clear', async () => (await stateOf(stuck)) === 'clear');
    await db.rows(
      `create trigger refuse_mail before insert on outbox for each row when (new.subject like '%quay-display-1%') execute function refuse_mail()`
    );
    const raising = rule(1, 1, { levels: [threshold('above', 1)], whenMissing: 'keep' });
    await processorAlarm(house, 'quay-display-1', { name: 'Held up', route: told, rule: raising });
    await processorAlarm(house, 'gate-api-2', { name: 'Free', route: told, rule: raising });
    await until('the mail of the other', () => mailsTo('held@example.test').length === 1);
    expect(mailsTo('held@example.test')[0]?.subject).to.contain('gate-api-2');
    await db.rows('drop trigger refuse_mail on outbox');
    await until('the mail that was held up', () => mailsTo('held@example.test').length === 2);
  }).timeout(180_000);

  it('a mail that the server refuses is kept with its reason and tried again', async () => {
    const refused = await routeTo(house, 'nobody@refused.test');
    const alarm = await processorAlarm(house, 'tariff-worker-1', {
      route: refused,
      rule: rule(1, 1, { levels: [threshold('above', 1)], whenMissing: 'keep' })
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
  }).timeout(90_000);

  it('goes step by step until somebody acknowledges, past whoever cannot be reached, and says once that it is clear', async () => {
    const { bussola, clock } = house;
    const kaja = await insertPerson(bussola.db, {
      ...{ name: 'kaja', displayName: 'Kaja Tamm', role: 'editor', passwordHash: '', zone: 'UTC' },
      createdAt: clock.now()
    });
    const own = await confirmedChannel(house, 'kaja@example.test');
    await giveChannel(bussola.db, own, kaja.id);
    const steps = [
      { after: 0, notify: [{ kind: 'person', personId: kaja.id, by: ['text-message'] }] },
      { after: 10 * minute, notify: [{ kind: 'person', personId: kaja.id, by: ['email'] }] },
      {
        after: 20 * minute,
        notify: [{ kind: 'channel', channelId: await confirmedChannel(house, 'lead@example.test') }]
      }
    ] as const;
    const route = await routeTo(house, 'unused@example.test', {
      steps: steps.map((step) => ({ ...step, notify: [...step.notify] }))
    } as never);
    const alarm = await processorAlarm(house, 'gate-api-1', { route });
    await until('clear', async () => (await stateOf(alarm)) === 'clear');
    stress('gate-api-1', 95, 25);
    await live(5);
    await until('the mail of the second step, at once', () => mailsTo('kaja@example.test').length === 1);
    expect(mailsTo('kaja@example.test')[0]?.subject, 'nobody failed to acknowledge').not.to.contain('not acknowledged');
    expect(mailsTo('lead@example.test')).to.have.length(0);
    await live(11);
    await until('the mail of the third step', () => mailsTo('lead@example.test').length === 1);
    expect(mailsTo('lead@example.test')[0]?.subject).to.match(/, not acknowledged$/);
    const [incident] = await incidentsOf(alarm);
    await acknowledge(bussola, incident!.id, 'Kaja Tamm');
    stress('gate-api-1', 20, 10);
    await live(12);
    await until('both mails', () => [...mailsTo('kaja@example.test'), ...mailsTo('lead@example.test')].length === 4);
    expect(
      mailsTo('lead@example.test')
        .map(({ subject }) => subject.split(' ')[0])
        .sort()
    ).to.deep.equal(['CLEAR', 'MAJOR']);
    expect(mailsTo('unused@example.test')).to.have.length(0);
  }).timeout(240_000);

  it('a route that is removed gives its open incidents to the next that takes them; without any, nobody is reached, and that is noted', async () => {
    const { bussola } = house;
    const raising = rule(1, 1, { levels: [threshold('above', 1)], whenMissing: 'keep' });
    const alarm = await processorAlarm(house, 'quay-display-1', { name: 'Rerouted', rule: raising });
    const [incident] = await until('the incident', async () => {
      const found = await incidentsOf(alarm);
      return found.length === 1 && found;
    });
    const unreached = async () =>
      (await eventsOfIncident(bussola.db, incident!.id)).filter(({ kind }) => kind === 'unreached').length;
    await until('that nobody is reached', async () => (await unreached()) === 1);
    const of = (address: string, channelId: number) =>
      routeSchema.parse({
        ...{ name: address, when: {}, zone: 'UTC', group: { by: 'resource', wait: 0, atMostEvery: 0 } },
        steps: [{ after: 0, notify: [{ kind: 'channel', channelId }] }]
      });
    const first = await confirmedChannel(house, 'first@example.test');
    const second = await confirmedChannel(house, 'second@example.test');
    const one = await addRoute(bussola, of('one', first), 'list', 'test');
    const other = await processorAlarm(house, 'quay-display-1', { name: 'Taken by the list', rule: raising });
    await until('the mail of the first', () => mailsTo('first@example.test').length === 1);
    await addRoute(bussola, of('rest', second), 'last', 'test');
    await removeRoute(bussola, one.id);
    await until('the mail of the last', () => mailsTo('second@example.test').length === 1);
    expect((await incidentsOf(other))[0]?.closedAt).to.equal(null);
    expect(await unreached(), 'however often it was tried').to.equal(1);
  }).timeout(180_000);

  it('where every channel of a step refuses, the next step is taken after a minute', async () => {
    const { bussola } = house;
    const channels = [
      await confirmedChannel(house, 'nobody2@refused.test'),
      await confirmedChannel(house, 'second@fallback.test')
    ];
    const route = await routeTo(house, 'unused@fallback.test', {
      steps: channels.map((channelId, step) => ({
        after: step * 30 * minute,
        notify: [{ kind: 'channel' as const, channelId }]
      }))
    });
    await processorAlarm(house, 'tariff-worker-1', {
      ...{ name: 'Falls back', route },
      rule: rule(1, 1, { levels: [threshold('above', 1)], whenMissing: 'keep' })
    });
    await until('the first refusal', async () => {
      const refused = await bussola.db.rows<{ threadId: number }>(
        'select thread_id as "threadId" from outbox where channel_id = $1 and last_error is not null',
        [channels[0]]
      );
      const deaf = await deafThreads(bussola.db, house.clock.now());
      return refused.some(({ threadId }) => deaf.includes(threadId));
    });
    await live(2);
    await until('the mail of the next step', () => mailsTo('second@fallback.test').length === 1);
    expect(mailsTo('second@fallback.test')[0]?.subject).to.contain('tariff-worker-1');
  }).timeout(180_000);

  it('that becomes graver and that another route takes presses those of the route before no further; both hear that it is clear', async () => {
    const { bussola } = house;
    const routeOn = async (address: string, severity: 'major' | 'critical') =>
      addRoute(
        bussola,
        routeSchema.parse({
          ...{
            name: address,
            zone: 'UTC',
            group: { by: 'incident', wait: 0, atMostEvery: 0 },
            repeatEvery: 5 * minute
          },
          when: { severities: [severity], labels: [{ label: 'test', is: ['handed'] }] },
          steps: [{ after: 0, notify: [{ kind: 'channel', channelId: await confirmedChannel(house, address) }] }]
        }),
        'list',
        'test'
      );
    await routeOn('grave@handed.test', 'critical');
    await routeOn('usual@handed.test', 'major');
    const levels = [threshold('above', 80), threshold('above', 95, 'critical')];
    const labels = { test: 'handed' };
    const alarm = await processorAlarm(house, 'booking-web-1', {
      name: 'Handed',
      labels,
      rule: rule(1, 1, { levels })
    });
    await until('clear', async () => (await stateOf(alarm)) === 'clear');
    const wordsTo = (address: string) =>
      mailsTo(address)
        .map(({ subject }) => subject.split(' ')[0])
        .sort();
    stress('booking-web-1', 88, 2);
    await live(2);
    await until('the first mail', () => wordsTo('usual@handed.test').length === 1);
    stress('booking-web-1', 99, 3);
    await live(3);
    await until('the mail of the graver route', () => wordsTo('grave@handed.test').length > 0);
    const [incident] = await incidentsOf(alarm);
    const next = await whoIsNext(bussola.db, incident!, house.clock.now());
    expect([...new Set(next.next.map(({ who }) => who))]).to.deep.equal(['grave@handed.test']);
    await acknowledge(bussola, incident!.id, 'Kaja Tamm');
    await unacknowledge(bussola, incident!.id, 'Kaja Tamm');
    const pressed = wordsTo('grave@handed.test').length;
    await live(7);
    await until('it is repeated where it is now', () => wordsTo('grave@handed.test').length > pressed);
    stress('booking-web-1', 20, 5);
    await live(5);
    await until('both hear that it is clear', () =>
      ['usual@handed.test', 'grave@handed.test'].every((address) => wordsTo(address).includes('CLEAR'))
    );
    expect(wordsTo('usual@handed.test')).to.deep.equal(['CLEAR', 'MAJOR']);
  }).timeout(240_000);

  it('what is remembered of a thread and cannot be read keeps nobody from being notified', async () => {
    const { bussola } = house;
    const route = await routeTo(house, 'damaged@example.test', {
      group: { by: 'route', wait: 0, atMostEvery: 60 * minute }
    });
    const busy = rule(1, 1, { levels: [threshold('above', 1)], whenMissing: 'keep' });
    await processorAlarm(house, 'freight-desk-1', { name: 'Before', route, rule: busy });
    await until('the mail', () => mailsTo('damaged@example.test').length === 1);
    await bussola.db.rows(`update threads set state = '{"version": 99}' where route_id = $1`, [route]);
    await processorAlarm(house, 'gate-api-2', { name: 'After', route, rule: busy });
    await until('the mail of the next incident', () => mailsTo('damaged@example.test').length === 2);
  }).timeout(180_000);
});
