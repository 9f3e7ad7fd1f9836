import { expect } from 'chai';
import PgBoss from 'pg-boss';
import { pino } from 'pino';
import { withDatabase } from '../../../../tests/support/database';
import { until } from '../../../../tests/support/until';
import { duration, hour, instant, type Clock } from '../../core/time';
import { Changes } from '../base/changes';
import { insertAlarm } from '../alarms/alarms';
import { incidentContent, openIncident } from '../../../../tests/support/incidents';
import { alarm } from '../../../../tests/support/alarm';
import { draftOf, insertChannel, insertEmailChannel } from './channels';
import { channelByToken, confirmByCode } from './channel-confirmation';
import { confirmRequest } from './confirm';
import { confirmationLimits } from './confirmation-limits';
import { startDelivery, type Delivery } from './deliver';
import { pauseAfter } from './retry';
import { NotTaken, type Outgoing } from './senders/sender';
import { sealing } from '../../../../tests/support/sealing';
import { attemptsOf, noteAttempt, insertMessage, messageById, type NewMessage } from './outbox';
import { deliveryTrouble } from './outbox-lists';

describe('delivery', function () {
  this.timeout(30_000);
  const fixture = withDatabase();
  let now = 1_777_881_600_000;
  const clock: Clock = { now: () => instant(now) };
  let channelId: number;
  let incidentId: number;
  const running: Delivery[] = [];

  const start = async (
    send: (mail: Outgoing) => Promise<void>,
    changes = new Changes(),
    more: { mostAMinute?: () => number } = {}
  ): Promise<Delivery> => {
    const sender = {
      send: async (mail: Outgoing) => {
        await send(mail);
        return { request: `to ${mail.channel.address}`, answer: 'taken' };
      },
      close: () => undefined
    };
    const senders = { email: sender, webhook: sender, 'chat-hook': sender, 'text-message': sender, push: sender };
    const log = pino({ level: 'silent' });
    const origin = 'https://bussola.example.test';
    const delivery = await startDelivery({
      ...{ db: fixture.db, clock, senders, secrets: sealing, changes, log, origin },
      pause: () => 1,
      ...more
    });
    running.push(delivery);
    return delivery;
  };
  const written = (subject: string) => ({ kind: 'written' as const, subject, text: 't' });
  const message = (changed: Partial<NewMessage> = {}): NewMessage => ({
    channelId,
    incidentId: null,
    alarmId: null,
    content: written('s'),
    priority: 1,
    createdAt: clock.now(),
    ...changed
  });
  const newest = async () => {
    const [row] = await fixture.db.rows<{ id: number }>('select max(id) as id from outbox');
    return (await messageById(fixture.db, row?.id ?? 0))!;
  };
  const stateIs = (id: number, state: string) => async () => (await messageById(fixture.db, id))?.state === state;

  beforeEach(async () => {
    await fixture.db.rows('delete from outbox');
    await fixture.db.rows('delete from channels');
    await fixture.db.rows('delete from alarms');
    channelId = (
      await insertEmailChannel(fixture.db, {
        name: 'a',
        address: 'a@example.test',
        createdAt: clock.now(),
        createdBy: 'x'
      })
    ).id;
    const { id: alarmId } = await insertAlarm(fixture.db, alarm, 'test', clock.now());
    incidentId = await openIncident(fixture.db, {
      alarmId,
      key: 'k',
      labels: {},
      seriesId: null,
      accountId: null,
      unit: '%',
      severity: 'major',
      openedAt: clock.now()
    });
  });
  afterEach(async () => {
    await Promise.all(running.splice(0).map((delivery) => delivery.stop()));
  });

  it('goes on trying while the mail server is away, and says so; only after more than a day it gives up', async () => {
    let isAway = true;
    const sent: Outgoing[] = [];
    const delivery = await start((mail) => {
      if (isAway) return Promise.reject(new Error('ECONNREFUSED'));
      sent.push(mail);
      return Promise.resolve();
    });
    await delivery.enqueue(fixture.db, message());
    const { id } = await newest();
    await until('several tries', async () => ((await messageById(fixture.db, id))?.attempts ?? 0) >= 3);
    expect((await messageById(fixture.db, id))?.state).to.equal('queued');
    expect(await deliveryTrouble(fixture.db)).to.deep.equal({
      waiting: 1,
      failed: 0,
      since: clock.now(),
      reason: 'ECONNREFUSED'
    });
    now += 25 * hour;
    const { attempts } = (await messageById(fixture.db, id))!;
    await until('a try a day later', async () => ((await messageById(fixture.db, id))?.attempts ?? 0) > attempts);
    expect((await messageById(fixture.db, id))?.state).to.equal('queued');
    now += 2 * hour;
    await until('given up', stateIs(id, 'failed'));
    expect((await deliveryTrouble(fixture.db))?.failed).to.equal(1);

    isAway = false;
    expect(await delivery.sendAgain(id)).to.equal(true);
    await until('sent', stateIs(id, 'sent'));
    expect(sent.map(({ channel }) => channel.address)).to.deep.equal(['a@example.test']);
    expect((await attemptsOf(fixture.db, id)).at(-1)).to.include({
      request: 'to a@example.test',
      answer: 'taken',
      error: null
    });
    expect(await delivery.sendAgain(id), 'once is enough').to.equal(false);
    expect(await deliveryTrouble(fixture.db)).to.equal(null);
  });

  it('what a process had under way when it was killed is sent by the next at once', async () => {
    await (await start(() => Promise.resolve())).stop();
    running.splice(0);
    const id = await insertMessage(fixture.db, message());
    // As a process leaves it that took the job and was killed: under way for good, as far as the queue knows.
    const boss = new PgBoss({
      db: {
        executeSql: async (text, values = []) => ({
          rows: await fixture.db.rows<object>(
            text,
            values.map((one) => (one as unknown) ?? null)
          )
        })
      }
    });
    await boss.start();
    await boss.send('deliver-email', { outboxId: id });
    expect(await boss.fetch('deliver-email')).to.have.length(1);
    await boss.stop({ close: false });
    let count = 0;
    await start(() => {
      count++;
      return Promise.resolve();
    });
    await until('sent', stateIs(id, 'sent'), 5000);
    expect(count).to.equal(1);
  });

  it('sends a channel so many messages a minute; the others wait, and another channel does not', async () => {
    const sent: string[] = [];
    const delivery = await start(
      ({ message: { subject } }) => {
        sent.push(subject);
        return Promise.resolve();
      },
      new Changes(),
      { mostAMinute: () => 3 }
    );
    await fixture.db.transaction(async (within) => {
      for (const priority of [1, 5, 2, 4, 3])
        await delivery.enqueue(within, message({ priority, content: written(`p${priority}`) }));
    });
    await until('three are sent and the others wait', async () => {
      const jobs = await fixture.db.rows<{ count: number }>(
        `select count(*)::integer as count from pgboss.job where state = 'created' and start_after > now() + interval '30 seconds'`
      );
      return sent.length === 3 && jobs[0]?.count === 2;
    });
    expect(new Set(sent).size).to.equal(3);
    const other = await insertEmailChannel(fixture.db, {
      ...{ name: 'b', address: 'b@example.test', createdAt: clock.now(), createdBy: 'x' }
    });
    await delivery.enqueue(fixture.db, message({ channelId: other.id, content: written('other') }));
    await until('another channel is not held up', () => sent.includes('other'));
  });

  it('a raised message never leaves behind its clearing one', async () => {
    let isAway = true;
    const news: string[] = [];
    const delivery = await start((mail) => {
      if (isAway) return Promise.reject(new Error('ECONNREFUSED'));
      if (mail.content.kind === 'incident') news.push(mail.content.news);
      return Promise.resolve();
    });
    await delivery.enqueue(fixture.db, message({ incidentId, content: incidentContent(incidentId) }));
    const raised = await newest();
    await until('tried', async () => ((await messageById(fixture.db, raised.id))?.attempts ?? 0) > 0);
    isAway = false;
    await fixture.db.transaction(async (within) => {
      await delivery.enqueue(
        within,
        message({ incidentId, content: incidentContent(incidentId, 'cleared'), priority: 9 })
      );
    });
    const cleared = await newest();
    await until('the clearing one', stateIs(cleared.id, 'sent'));
    await until('the raised one', stateIs(raised.id, 'superseded'));
    expect(news).to.deep.equal(['cleared']);
  });

  it('sends several at a time, the most urgent first, and tells browsers what is recorded', async () => {
    let atOnce = 0;
    let most = 0;
    const order: string[] = [];
    const changes = new Changes();
    let told = 0;
    let early = 0;
    changes.on('outbox', () => {
      const number = ++told;
      void fixture.db
        .rows<{ sent: number }>(`select count(*)::integer as sent from outbox where state = 'sent'`)
        .then(([row]) => (early += (row?.sent ?? 0) < number ? 1 : 0));
    });
    const delivery = await start(async ({ message: { subject } }) => {
      most = Math.max(most, ++atOnce);
      await fixture.db.rows('select pg_sleep(0)');
      order.push(subject);
      atOnce--;
    }, changes);
    await fixture.db.transaction(async (within) => {
      for (let i = 0; i < 60; i++)
        await delivery.enqueue(within, message({ content: written(`m${i}`), priority: i < 50 ? 1 : 20 }));
    });
    await until('all', () => order.length === 60);
    expect(most).to.be.within(2, 5);
    expect(
      order.slice(0, 5).every((subject) => Number(subject.slice(1)) >= 50),
      order.slice(0, 12).join()
    ).to.equal(true);
    await until('recorded', async () => {
      const rows = await fixture.db.rows(`select 1 from outbox where state = 'queued'`);
      return rows.length === 0;
    });
    expect([told, early]).to.deep.equal([60, 0]);
  });

  it('a link to confirm is made when it is sent, and stored nowhere', async () => {
    const mails: Outgoing[] = [];
    const delivery = await start((mail) => {
      mails.push(mail);
      return Promise.resolve();
    });
    await delivery.enqueue(fixture.db, confirmRequest(channelId, clock.now()));
    const { id } = await newest();
    await until('sent', stateIs(id, 'sent'));
    const token = /\/confirm\/([\w-]+)/.exec(mails[0]?.message.link ?? '')?.[1] ?? '';
    expect((await channelByToken(fixture.db, token, clock.now()))?.id).to.equal(channelId);
    for (const table of ['outbox', 'delivery_attempts'])
      expect(JSON.stringify(await fixture.db.rows(`select * from ${table}`))).not.to.contain(token);
  });

  it('notes what was answered to each try, and one kind of channel that is away holds no other up', async () => {
    const { id: hookId } = await insertChannel(
      ...([fixture.db, sealing] as const),
      draftOf({ kind: 'webhook', name: 'Desk', address: 'https://desk.example.test/events', mode: 'structured' }),
      { at: clock.now(), by: 'x' }
    );
    const mailed: string[] = [];
    const delivery = await start(({ channel }) => {
      if (channel.kind === 'webhook')
        return Promise.reject(new NotTaken('answered 503', { request: 'POST …', answer: '503 busy' }));
      mailed.push(channel.address);
      return Promise.resolve();
    });
    const away: number[] = [];
    for (let i = 0; i < 8; i++) away.push(await delivery.enqueue(fixture.db, message({ channelId: hookId })));
    await until('tried', async () => (await attemptsOf(fixture.db, away[7] as number)).length > 0);
    await delivery.enqueue(fixture.db, message());
    await until('the mail', () => mailed.length === 1);
    const [attempt] = await attemptsOf(fixture.db, away[0] as number);
    expect(attempt).to.include({ request: 'POST …', answer: '503 busy', error: 'answered 503' });
    expect((await messageById(fixture.db, away[0] as number))?.state).to.equal('queued');
  });

  it('what asks for a confirmation is new with every try, and nothing of its secret is stored, whatever is answered', async () => {
    const { id: hookId } = await insertChannel(
      ...([fixture.db, sealing] as const),
      draftOf({ kind: 'webhook', name: 'Desk', address: 'https://echo.example.test/events', mode: 'structured' }),
      { at: clock.now(), by: 'x' }
    );
    const tries: Outgoing[] = [];
    const delivery = await start((mail) => {
      tries.push(mail);
      const answer = `400 Bad Request\nno good: ${mail.message.sentence}`;
      return tries.length < 2
        ? Promise.reject(new NotTaken(`answered ${answer}`, { request: mail.message.sentence, answer }))
        : Promise.resolve();
    });
    const id = await delivery.enqueue(fixture.db, confirmRequest(hookId, clock.now()));
    await until('sent', stateIs(id, 'sent'));
    const codes = tries.map(({ message: { subject } }) => subject.slice(0, 6));
    expect(new Set(tries.map(({ key }) => key)).size).to.equal(2);
    expect((await attemptsOf(fixture.db, id))[0]).to.include({
      answer: '400 Bad Request',
      error: 'answered 400 Bad Request'
    });
    const stored = JSON.stringify([
      await fixture.db.rows('select subject, content, last_error from outbox'),
      await fixture.db.rows('select request, answer, error from delivery_attempts')
    ]);
    for (const code of codes) expect(stored).not.to.contain(code);
    expect(await confirmByCode(fixture.db, hookId, codes[1] as string, clock.now())).to.equal(true);
  });

  it('a message that cannot be read fails with its reason, and holds no other up', async () => {
    const delivery = await start(() => Promise.resolve());
    const id = await fixture.db.transaction(async (within) => {
      const made = await delivery.enqueue(within, message());
      await within.rows(`update outbox set content = '{"version": 1, "kind": "riddle"}' where id = $1`, [made]);
      return made;
    });
    const next = await delivery.enqueue(fixture.db, message());
    await until('sent', stateIs(next, 'sent'));
    const [row] = await fixture.db.rows<{ state: string; error: string }>(
      'select state, last_error as error from outbox where id = $1',
      [id]
    );
    expect(row?.state).to.equal('failed');
    expect(row?.error).to.match(/^The message “s” cannot be read as it is stored/);
  });

  it('keeps the newest twenty tries of a message', async () => {
    const id = await insertMessage(fixture.db, message());
    for (let i = 1; i <= 25; i++)
      await noteAttempt(fixture.db, id, { at: clock.now(), took: duration(i), request: '', answer: '', error: 'x' });
    expect((await attemptsOf(fixture.db, id, 100)).map(({ took }) => took)).to.deep.equal(
      Array.from({ length: 20 }, (_, i) => i + 6)
    );
  });

  it('links to confirm are limited by address and by person', async () => {
    const limits = confirmationLimits();
    const take = (person: number, address: string) => limits.take(person, address);
    for (let i = 0; i < 3; i++) expect(await take(1, 'one@example.test')).to.equal(null);
    expect(await take(1, 'ONE@example.test')).to.match(/^Enough links and codes have been sent for now/);
    expect(await take(2, 'two@example.test')).to.equal(null);
    expect(await limits.take(1, 'one@example.test', 'test'), 'a test is another matter').to.equal(null);
    for (let i = 0; i < 25; i++) await take(3, `many-${i}@example.test`);
    expect(await take(3, 'last@example.test')).to.match(/^Enough links/);
  });

  it('waits longer with each try, up to ten minutes, and never just as long as others', () => {
    expect([0, 1, 2, 3].map((attempts) => pauseAfter(attempts, 1))).to.deep.equal([5, 10, 20, 40]);
    expect(pauseAfter(50, 1)).to.equal(600);
    expect([pauseAfter(50, 0), pauseAfter(0, 0)]).to.deep.equal([300, 3]);
  });
});
