import { expect } from 'chai';
import { rule, threshold } from '../../../../tests/support/alarm';
import { confirmedChannel, processorAlarm, routeTo, withMachines } from '../../../../tests/support/bussola';
import { until } from '../../../../tests/support/until';
import { shelvingSchema } from '../../core/shelving';
import { minute } from '../../core/time';
import { Changes } from '../base/changes';
import { incidentById } from '../incidents/incidents';
import { addShelving, endNow } from '../shelving/manage-shelvings';
import { activeShelvings, currentShelvings, heldBack } from '../shelving/shelvings';
import { changeShelvings } from './shelve';
import { timelineOf } from './timeline';
import { whoIsNext } from './who-is-next';

describe('messages that are held back', () => {
  const { house, stateOf, incidentsOf, mailsTo, stress, live } = withMachines();

  it('what is shelved holds messages back; of what is still raised when it ends people are notified, of what cleared meanwhile they are not', async () => {
    const { bussola, clock } = house;
    const route = await routeTo(house, 'shelved@example.test');
    const busy = rule(1, 1, { levels: [threshold('above', 80)], whenMissing: 'keep' });
    const lasting = await processorAlarm(house, 'gate-api-2', { name: 'Lasting', route, rule: busy });
    const passing = await processorAlarm(house, 'booking-web-2', { name: 'Passing', route, rule: busy });
    for (const alarm of [lasting, passing]) await until('clear', async () => (await stateOf(alarm)) === 'clear');
    const shelving = await addShelving(
      bussola,
      shelvingSchema.parse({
        ...{ kind: 'shelved', reason: 'the disk is exchanged', zone: 'UTC' },
        scope: { alarmIds: [lasting.id, passing.id] },
        ...{ from: clock.now(), to: clock.now() + 600 * minute }
      }),
      'Kaja Tamm'
    );
    await until('in force', async () => (await activeShelvings(bussola.db)).length === 1);
    stress('gate-api-2', 95, 60);
    stress('booking-web-2', 95, 4);
    await live(3);
    const held = async () => (await heldBack(bussola.db)).find(({ shelvingId }) => shelvingId === shelving.id);
    await until('both held back', async () => (await held())?.open === 2);
    await live(6);
    await until('one clear', async () => (await held())?.clear === 1);
    expect(mailsTo('shelved@example.test')).to.deep.equal([]);
    const told: number[] = [];
    const hear = (): number => told.push(1);
    bussola.changes.on('routing', hear);
    await endNow(bussola, shelving.id, 'Kaja Tamm');
    expect(
      (await currentShelvings(bussola.db)).map(({ id }) => id),
      'it is listed no longer'
    ).not.to.include(shelving.id);
    await until('pages hear that it was ended, and that nothing is held back by it', () => told.length >= 2);
    bussola.changes.off('routing', hear);
    const [mail] = await until(
      'the mail',
      () => mailsTo('shelved@example.test').length > 0 && mailsTo('shelved@example.test')
    );
    expect(mail?.subject).to.match(/^MAJOR gate-api-2/);
    await live(2);
    expect(mailsTo('shelved@example.test')).to.have.length(1);
    const [incident] = await incidentsOf(lasting);
    const kinds = (await timelineOf(bussola.db, (await incidentById(bussola.db, incident!.id))!)).map(
      ({ kind }) => kind
    );
    expect(kinds).to.include('held').and.to.include('message').and.to.include('state');
  }).timeout(240_000);

  it('what is open when it is shelved presses nobody further', async () => {
    const { bussola, clock } = house;
    const lead = await confirmedChannel(house, 'pressed@example.test');
    const route = await routeTo(house, 'first-pressed@example.test', {
      repeatEvery: 5 * minute,
      steps: [
        { after: 0, notify: [{ kind: 'channel', channelId: lead }] },
        { after: 10 * minute, notify: [{ kind: 'channel', channelId: lead }] }
      ]
    });
    const alarm = await processorAlarm(house, 'quay-display-1', {
      ...{ name: 'Pressing', route },
      rule: rule(1, 1, { levels: [threshold('above', 1)], whenMissing: 'keep' })
    });
    await until('the mail', () => mailsTo('pressed@example.test').length === 1);
    const [incident] = await incidentsOf(alarm);
    expect((await whoIsNext(bussola.db, incident!, clock.now())).next.map(({ why }) => why).slice(0, 2)).to.deep.equal([
      ...['repeat', 'step']
    ]);
    await addShelving(
      bussola,
      shelvingSchema.parse({
        ...{ kind: 'maintenance', reason: 'new displays', zone: 'UTC', scope: { resources: ['quay-display-1'] } },
        ...{ from: clock.now(), to: clock.now() + 60 * minute }
      }),
      'Kaja Tamm'
    );
    await until('shelved', async () => (await incidentById(bussola.db, incident!.id))?.shelvingId !== null);
    await until('nobody is next', async () => (await whoIsNext(bussola.db, incident!, clock.now())).next.length === 0);
    await live(20);
    expect(mailsTo('pressed@example.test')).to.have.length(1);
  }).timeout(180_000);

  it('one that cannot be read stirs no page up, however often it is tried, and says why', async () => {
    const { bussola, clock } = house;
    const broken = await addShelving(
      bussola,
      shelvingSchema.parse({
        ...{ kind: 'maintenance', reason: 'unreadable', zone: 'UTC', scope: { resources: ['nothing'] } },
        ...{ from: clock.now() + 60 * minute, to: clock.now() + 120 * minute }
      }),
      'Ivo Brandt'
    );
    const changes = new Changes();
    const told: number[] = [];
    changes.on('routing', () => told.push(1));
    await bussola.db.rows(`update shelvings set definition = '{"version": 99}', changes_at = $2 where id = $1`, [
      ...[broken.id, clock.now()]
    ]);
    const faults: string[] = [];
    // Another process may be about it: this one is.
    await until('its fault', async () => {
      await changeShelvings({ ...bussola, changes }, (subject) => faults.push(subject));
      return faults.length > 2;
    });
    expect(new Set(faults)).to.deep.equal(new Set([`shelving ${broken.id}`]));
    expect(told).to.deep.equal([]);
    await bussola.db.rows('delete from shelvings where id = $1', [broken.id]);
  });

  it('what is ended twice, or is not there, is refused with where to look', async () => {
    const { bussola, clock } = house;
    const shelving = await addShelving(
      bussola,
      shelvingSchema.parse({
        ...{ kind: 'maintenance', reason: 'the pier is repaired', zone: 'UTC', scope: { resources: ['nothing'] } },
        ...{ from: clock.now() + 60 * minute, to: clock.now() + 120 * minute }
      }),
      'Ivo Brandt'
    );
    expect((await currentShelvings(bussola.db)).find(({ id }) => id === shelving.id)?.active).to.equal(false);
    await endNow(bussola, shelving.id, 'Ivo Brandt');
    for (const id of [shelving.id, 999_999])
      expect(await endNow(bussola, id, 'Ivo Brandt').catch((error: unknown) => error)).to.include({
        code: 'not-found',
        remedy: 'It may be over. See what is held back.'
      });
  });
});
