import { expect } from 'chai';
import { until } from '../../../../tests/support/until';
import { duration } from '../../core/time';
import { draftOf, insertChannel } from './channels';
import { channelByToken, confirmByCode } from './channel-confirmation';
import { confirmRequest } from './confirm';
import { confirmationLimits } from './confirmation-limits';
import { pauseAfter } from './retry';
import { NotTaken, type Outgoing } from './senders/sender';
import { withDelivery } from '../../../../tests/support/delivery';
import { sealing } from '../../../../tests/support/sealing';
import { attemptsOf, noteAttempt, insertMessage, messageById } from './outbox';

describe('what is noted of a delivery', function () {
  this.timeout(90_000);
  const { fixture, clock, ids, start, message, newest, stateIs } = withDelivery();

  it('a link to confirm is made when it is sent, and stored nowhere', async () => {
    const mails: Outgoing[] = [];
    const delivery = await start((mail) => {
      mails.push(mail);
      return Promise.resolve();
    });
    await delivery.enqueue(fixture.db, confirmRequest(ids.channel, clock.now()));
    const { id } = await newest();
    await until('sent', stateIs(id, 'sent'));
    const token = /\/confirm\/([\w-]+)/.exec(mails[0]?.message.link ?? '')?.[1] ?? '';
    expect((await channelByToken(fixture.db, token, clock.now()))?.id).to.equal(ids.channel);
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
