import { expect } from 'chai';
import PgBoss from 'pg-boss';
import { until } from '../../../../tests/support/until';
import { hour, times } from '../../core/time';
import { Changes } from '../base/changes';
import { incidentContent } from '../../../../tests/support/incidents';
import { insertEmailChannel } from './channels';
import { type Outgoing } from './senders/sender';
import { withDelivery } from '../../../../tests/support/delivery';
import { attemptsOf, insertMessage, messageById } from './outbox';
import { deliveryTrouble } from './outbox-lists';

describe('delivery', function () {
  this.timeout(90_000);
  const { fixture, clock, ids, start, written, message, newest, stateIs, stopAll, pass } = withDelivery();

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
    pass(times(25, hour));
    const { attempts } = (await messageById(fixture.db, id))!;
    await until('a try a day later', async () => ((await messageById(fixture.db, id))?.attempts ?? 0) > attempts);
    expect((await messageById(fixture.db, id))?.state).to.equal('queued');
    pass(times(2, hour));
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
    await start(() => Promise.resolve());
    await stopAll();
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
    await delivery.enqueue(fixture.db, message({ incidentId: ids.incident, content: incidentContent(ids.incident) }));
    const raised = await newest();
    await until('tried', async () => ((await messageById(fixture.db, raised.id))?.attempts ?? 0) > 0);
    isAway = false;
    await fixture.db.transaction(async (within) => {
      await delivery.enqueue(
        within,
        message({ incidentId: ids.incident, content: incidentContent(ids.incident, 'cleared'), priority: 9 })
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
});
