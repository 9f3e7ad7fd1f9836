import { expect } from 'chai';
import { rule, threshold } from '../../../../tests/support/alarm';
import { processorAlarm, routeTo, withMachines } from '../../../../tests/support/bussola';
import { minute } from '../../core/time';
import { until } from '../../../../tests/support/until';
import { timelineOf } from '../respond/timeline';
import { closeIncident, reopenIncident } from './close';
import { incidentById } from './incidents';
import { openIncidents } from './open';

describe('an incident that a person closes', () => {
  const { house, incidentsOf, mailsTo, stress, live } = withMachines();
  const levels = rule(1, 1, { levels: [threshold('above', 80), threshold('above', 95, 'critical')] });
  const current = async (id: number) => (await incidentById(house.bussola.db, id))!;
  const wordsOf = (address: string) =>
    mailsTo(address)
      .map(({ subject }) => subject.split(' ')[0])
      .reverse();

  it('while it is raised is over for people: nobody hears of it being clear, until it is raised anew', async () => {
    const route = await routeTo(house, 'closing@example.test');
    const alarm = await processorAlarm(house, 'booking-web-2', { route, rule: levels });
    stress('booking-web-2', 88, 4);
    await live(3);
    const [raised] = await until('raised', async () => {
      const found = await incidentsOf(alarm);
      return found.length > 0 && found;
    });
    await until('its mail', () => mailsTo('closing@example.test').length === 1);
    const id = raised!.id;
    const closed = await closeIncident(house.bussola, id, { outcome: 'expected', text: 'Load test.' }, 'Nerea Olmo');
    expect([closed.clearAt, closed.closedAt, closed.outcome?.by]).to.deep.equal([
      null,
      house.clock.now(),
      'Nerea Olmo'
    ]);
    expect((await openIncidents(house.bussola.db, 100)).map((one) => one.id)).not.to.include(id);
    const [mail] = await until(
      'that it was closed',
      () => mailsTo('closing@example.test').length === 2 && mailsTo('closing@example.test')
    );
    expect(mail?.subject).to.equal('CLOSED booking-web-2: processor use, expected: Load test. (Nerea Olmo)');
    stress('booking-web-2', 20, 4);
    await live(4);
    await until('clear', async () => (await current(id)).clearAt !== null);
    expect((await current(id)).closedAt, 'closed stays when it was').to.equal(closed.closedAt);
    stress('booking-web-2', 88, 4);
    await live(3);
    await until('raised anew', () => mailsTo('closing@example.test').length === 3);
    expect(wordsOf('closing@example.test')).to.deep.equal(['MAJOR', 'CLOSED', 'MAJOR']);
    expect((await timelineOf(house.bussola.db, await current(id))).map(({ text }) => text)).to.include(
      'Closed while it was raised: expected: Load test.'
    );
  }).timeout(240_000);

  it('is open again once it is graver than it was, and somebody hears of it', async () => {
    const route = await routeTo(house, 'graver@example.test');
    const alarm = await processorAlarm(house, 'booking-web-3', { route, rule: levels });
    stress('booking-web-3', 88, 3);
    await live(3);
    const id = await until('raised', async () => (await incidentsOf(alarm))[0]?.id);
    await until('its mail', () => mailsTo('graver@example.test').length === 1);
    await closeIncident(house.bussola, id, { outcome: 'false-alarm', text: '' }, 'Ivo Brandt');
    stress('booking-web-3', 99, 4);
    await live(3);
    await until('critical', () => wordsOf('graver@example.test').includes('CRITICAL'));
    const again = await current(id);
    expect([again.closedAt, again.outcome, again.severity]).to.deep.equal([null, null, 'critical']);
    expect(wordsOf('graver@example.test')).to.deep.equal(['MAJOR', 'CLOSED', 'CRITICAL']);
  }).timeout(240_000);

  it('can be opened again while it is raised: its route has it as if it were new; not when it is clear', async () => {
    const route = await routeTo(house, 'again@example.test');
    const alarm = await processorAlarm(house, 'gate-api-1', { route, rule: levels });
    stress('gate-api-1', 88, 4);
    await live(3);
    const id = await until('raised', async () => (await incidentsOf(alarm))[0]?.id);
    await until('its mail', () => mailsTo('again@example.test').length === 1);
    await closeIncident(house.bussola, id, { outcome: 'fixed', text: '' }, 'Ivo Brandt');
    await reopenIncident(house.bussola, id, 'Ivo Brandt');
    expect((await current(id)).closedAt).to.equal(null);
    await until('it is news', () => wordsOf('again@example.test').filter((word) => word === 'MAJOR').length === 2);
    stress('gate-api-1', 20, 5);
    await live(4);
    await until('clear', async () => (await current(id)).clearAt !== null);
    const refused = await reopenIncident(house.bussola, id, 'Ivo Brandt').catch((error: unknown) => error);
    expect(refused).to.include({ code: 'incident-closed' });
    const said = await closeIncident(house.bussola, id, { outcome: 'by-itself', text: '' }, 'Nerea Olmo');
    expect([said.outcome?.outcome, said.closedAt]).to.deep.equal(['by-itself', said.clearAt]);
    expect(
      await closeIncident(house.bussola, 999_999, { outcome: 'fixed', text: '' }, 'x').catch((e: unknown) => e)
    ).to.include({ code: 'not-found' });
  }).timeout(240_000);

  it('and that is opened again before anybody was notified is still raised: nobody hears that it is clear', async () => {
    // What comes within a minute is one message.
    const group = { by: 'incident', wait: minute, atMostEvery: 0 } as const;
    const route = await routeTo(house, 'twice@example.test', { group });
    const alarm = await processorAlarm(house, 'freight-desk-1', {
      route,
      rule: rule(1, 1, { levels: [threshold('above', 1)], whenMissing: 'keep' })
    });
    const id = await until('raised', async () => (await incidentsOf(alarm))[0]?.id);
    house.clock.pass(2);
    await until('its mail', () => mailsTo('twice@example.test').length === 1);
    await closeIncident(house.bussola, id, { outcome: 'false-alarm', text: '' }, 'Ivo Brandt');
    await reopenIncident(house.bussola, id, 'Ivo Brandt');
    house.clock.pass(2);
    await until('the next', () => mailsTo('twice@example.test').length === 2);
    expect(wordsOf('twice@example.test')).to.deep.equal(['MAJOR', 'MAJOR']);
  }).timeout(180_000);

  it('that may have one cause are one conversation, where a route groups them so', async () => {
    const group = { by: 'related', wait: 0, atMostEvery: 0 } as const;
    const route = await routeTo(house, 'related@example.test', { group });
    const one = { route, rule: rule(1, 1, { levels: [threshold('above', 1)], whenMissing: 'keep' as const }) };
    await processorAlarm(house, 'quay-display-1', { ...one, name: 'First' });
    await until('the first', () => mailsTo('related@example.test').length >= 1);
    await processorAlarm(house, 'quay-display-1', { ...one, name: 'Second' });
    await until('the second', () => mailsTo('related@example.test').length >= 2);
    const mails = mailsTo('related@example.test');
    const roots = new Set(mails.map(({ inReplyTo, messageId }) => inReplyTo || messageId));
    expect(roots.size, 'one conversation').to.equal(1);
  }).timeout(180_000);
});
