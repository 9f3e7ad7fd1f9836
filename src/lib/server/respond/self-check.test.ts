import { expect } from 'chai';
import { confirmedChannel, mailsTo, withHouse } from '../../../../tests/support/bussola';
import { until } from '../../../../tests/support/until';
import { routeSchema } from '../../core/notify/route';
import { before, duration, hour, minute } from '../../core/time';
import { kindsThatFail } from '../notify/deaf-kinds';
import { draftOf, giveChannel, insertChannel } from '../notify/channels';
import { confirmChannel } from '../notify/channel-confirmation';
import { changeOwn, insertPerson } from '../people/people';
import { insertRoute } from '../routing/routes';
import { contactsNow, reachOf, recipientsOf } from './recipients';
import { whatWorks } from './self-check';

describe('whether Bussola itself can notify people', () => {
  const house = withHouse();
  const written = () => ({ at: house.clock.now(), by: 'test' });

  it('is told by a channel that still works, once, and again when all works', async () => {
    const { bussola, standIns, clock } = house;
    const { db } = bussola;
    const mail = await confirmedChannel(house, 'watch@example.test');
    const phone = await insertChannel(
      db,
      bussola.secrets,
      draftOf({ kind: 'text-message', name: 'Phone', address: '+12025550199' }),
      written()
    );
    await confirmChannel(db, phone.id, clock.now());
    const steps = [mail, phone.id].map((channelId, index) => ({
      after: index * 10 * minute,
      notify: [{ kind: 'channel' as const, channelId }]
    }));
    const last = routeSchema.parse({
      ...{ name: 'All', zone: 'UTC', when: {}, group: { by: 'incident', wait: 0, atMostEvery: 0 }, steps }
    });
    await insertRoute(db, last, 'last', written());
    standIns.mailbox.behaving.current = 'refuse';
    const content = { kind: 'written' as const, subject: 'Something', text: 't' };
    await db.transaction((within) =>
      bussola.delivery.enqueue(within, {
        ...{ channelId: mail, content, priority: 1, createdAt: clock.now(), incidentId: null, alarmId: null }
      })
    );
    await until('a try', async () => (await db.rows('select 1 from outbox where last_error is not null')).length === 1);
    clock.pass(3);
    const texts = () => standIns.phone.messages.all.filter(({ to }) => to === '+12025550199').map(({ text }) => text);
    await until('the phone is told', () => texts().length === 1, 30_000);
    expect(texts()[0]).to.contain('Bussola cannot send e-mails');
    expect((await whatWorks(db)).deaf.map(({ kind }) => kind)).to.deep.equal(['email']);
    expect((await whatWorks(db)).anyWorks).to.equal(true);
    clock.pass(30);
    standIns.mailbox.behaving.current = 'well';
    await until('it is told again', () => texts().length === 2, 60_000);
    expect(texts().some((text) => text.includes('Bussola can send e-mails again'))).to.equal(true);
    expect((await whatWorks(db)).deaf).to.deep.equal([]);
    expect(mailsTo(house, 'watch@example.test').map(({ subject }) => subject)).to.include('Something');
  }).timeout(300_000);

  it('an address that is refused is no outage, and hides none', async () => {
    const { bussola, standIns, clock } = house;
    const { db } = bussola;
    const send = async (address: string) => {
      const channelId = await confirmedChannel(house, address);
      const content = { kind: 'written' as const, subject: `To ${address}`, text: 't' };
      await db.transaction((within) =>
        bussola.delivery.enqueue(within, {
          ...{ channelId, content, priority: 1, createdAt: clock.now(), incidentId: null, alarmId: null }
        })
      );
    };
    const failing = async () =>
      (await kindsThatFail(db, before(clock.now(), duration(2 * minute)))).map(({ kind }) => kind);
    await send('nobody@refused.test');
    await until('a try', async () => {
      const rows = await db.rows(`select 1 from outbox where subject like '%refused.test' and last_error is not null`);
      return rows.length === 1;
    });
    await send('taken@example.test');
    // Noted as sent, before the clock goes on: when it is noted is when others of its kind were taken last.
    const noted = () => db.rows(`select 1 from outbox where subject like '%taken@%' and state = 'sent'`);
    await until('the other', async () => (await noted()).length === 1);
    clock.pass(5);
    expect(await failing(), 'others of its kind are taken').to.deep.equal([]);
    standIns.mailbox.behaving.current = 'refuse';
    await send('later@example.test');
    await until('another try', async () => {
      const rows = await db.rows(`select 1 from outbox where subject like '%later@%' and last_error is not null`);
      return rows.length === 1;
    });
    clock.pass(5);
    expect(await failing(), 'nothing is taken since').to.deep.equal(['email']);
    standIns.mailbox.behaving.current = 'well';
    await until('it is taken', () => mailsTo(house, 'later@example.test').length === 1, 60_000);
    // It is noted as sent a moment after it arrived.
    await until('it is noted', async () => (await failing()).length === 0);
  }).timeout(300_000);

  it('messages that no job is about are found and sent', async () => {
    const { bussola, clock } = house;
    const channelId = await confirmedChannel(house, 'stranded@example.test');
    const content = { kind: 'written' as const, subject: 'Stranded', text: 't' };
    await bussola.db.transaction(async (within) => {
      await bussola.delivery.enqueue(within, {
        ...{ channelId, content, priority: 1, createdAt: clock.now(), incidentId: null, alarmId: null }
      });
      // As when it failed as often as a job may.
      await within.rows("update pgboss.job set state = 'failed' where name = 'deliver-email' and state = 'created'");
    });
    await until('it is sent', () => mailsTo(house, 'stranded@example.test').length === 1, 60_000);
  }).timeout(240_000);

  it('who has quiet hours is not disturbed by what is not grave, and hears of it when they end; the next step does not wait', async () => {
    const { bussola, clock } = house;
    const { db } = bussola;
    const person = await insertPerson(db, {
      ...{ name: 'oda', displayName: 'Oda Lind', role: 'viewer', passwordHash: null, zone: 'UTC' },
      createdAt: clock.now()
    });
    await giveChannel(db, await confirmedChannel(house, 'oda@example.test'), person.id);
    const now = clock.now();
    const clockAt = (ms: number) => new Date(ms).toISOString().slice(11, 16);
    const hours = { weekdays: [1, 2, 3, 4, 5, 6, 7], from: clockAt(now - hour), to: clockAt(now + hour) };
    await changeOwn(db, person.id, {
      displayName: 'Oda Lind',
      zone: 'UTC',
      dateLocale: 'en',
      quiet: { hours, exceptFrom: 'critical' }
    });
    const contacts = await contactsNow(db, now);
    const target = { kind: 'person' as const, personId: person.id, by: ['email' as const] };
    const at = (severity: 'minor' | 'critical') => reachOf(recipientsOf([target], contacts, severity));
    expect(at('critical')).to.deep.equal({ isReached: true, quietUntil: null });
    expect(at('minor').isReached).to.equal(false);
    const ends = at('minor').quietUntil ?? 0;
    expect(ends - now).to.be.within(59 * minute, 60 * minute);
    const channelId = contacts.channels.find(({ personId }) => personId === person.id)?.id ?? 0;
    const content = { kind: 'written' as const, subject: 'In the morning', text: 't' };
    await db.transaction((within) =>
      bussola.delivery.enqueue(within, {
        ...{ channelId, personId: person.id, content, priority: 1, createdAt: now, holdUntil: at('minor').quietUntil },
        ...{ incidentId: null, alarmId: null }
      })
    );
    const other = await confirmedChannel(house, 'other@example.test');
    await db.transaction((within) =>
      bussola.delivery.enqueue(within, {
        ...{ channelId: other, content, priority: 1, createdAt: now, incidentId: null, alarmId: null }
      })
    );
    await until('others are sent meanwhile', () => mailsTo(house, 'other@example.test').length === 1);
    expect(mailsTo(house, 'oda@example.test')).to.have.length(0);
    const [row] = await db.rows<{ state: string; attempts: number }>(
      'select state, attempts from outbox where person_id = $1',
      [person.id]
    );
    expect(row).to.deep.equal({ state: 'queued', attempts: 0 });
    const [job] = await db.rows<{ minutes: number }>(
      `select (extract(epoch from start_after - created_on) / 60)::integer as minutes
       from pgboss.job
       where (data ->> 'outboxId')::integer in (select id from outbox where person_id = $1)`,
      [person.id]
    );
    expect(job?.minutes).to.be.within(59, 60);
    // Quiet hours that cannot be read are none: nobody goes without a message for their sake.
    await db.rows(`update people set quiet = '{"version": 99}' where id = $1`, [person.id]);
    const unread = recipientsOf([target], await contactsNow(db, now), 'minor');
    expect(reachOf(unread)).to.deep.equal({ isReached: true, quietUntil: null });
  }).timeout(180_000);
});
