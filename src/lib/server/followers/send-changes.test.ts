import { expect } from 'chai';
import { Webhook } from 'standardwebhooks';
import { withFollowers } from '../../../../tests/support/followers';
import { after as later, day, minute, times } from '../../core/time';
import { recordAct } from '../audit/acts';
import type { Database } from '../db/pool';
import { rotateSecret } from '../notify/channels';
import { sealing } from '../../../../tests/support/sealing';
import { changesOf, followerById } from './followers';
import { saveFollower } from './manage-followers';

describe('changes that are sent', function () {
  this.timeout(90_000);
  const { fixture, receiver, clock, context, pass, following, start, stopAll, act, sent, isAt, url } = withFollowers();

  it('are sent what people do, signed as by Standard Webhooks, in its order', async () => {
    const follower = await following();
    for (const name of ['first', 'second', 'third']) await recordAct(fixture.db, act({ subject: name }));
    await recordAct(
      fixture.db,
      act({ act: 'DELETE /channels/{id}', what: 'Removes a channel', id: 9, subject: 'Desk', path: '' })
    );
    start();
    await isAt(follower, 'all was sent', ({ waiting }) => waiting === 0);
    expect(sent().map(({ data }) => data['name'])).to.deep.equal(['first', 'second', 'third', 'Desk']);
    const [first, , , last] = sent();
    expect(first).to.deep.include({ type: 'bussola.change.alarms', subject: 'alarms/3' });
    expect(first?.data).to.deep.equal({
      ...{ kind: 'alarms', action: 'PUT /alarms/{id}', what: 'Changes an alarm', by: 'Nerea Olmo', means: 'person' },
      ...{ id: 3, name: 'first', at: new Date(clock.now()).toISOString(), link: 'https://b.example.test/alarms/3' }
    });
    expect(last).to.deep.include({ type: 'bussola.change.channels', subject: 'channels/9' });
    expect(last?.data).not.to.have.property('link');
    // Nobody's address goes out.
    expect(receiver.received.map(({ body }) => body).join()).not.to.contain('192.0.2.7');
    for (const { headers, body } of receiver.received) {
      const given = { ...headers } as unknown as Record<string, string>;
      new Webhook(follower.secret).verify(body, given);
      expect(() => new Webhook(follower.secret).verify(`${body} `, given), 'something else').to.throw();
    }
    expect((await changesOf(fixture.db, follower.id, 10, null)).map(({ answer }) => answer)).to.deep.equal(
      Array.from({ length: 4 }, () => '204 No Content')
    );
  });

  it('that take nothing are tried again, what comes later waits behind, and nothing is lost', async () => {
    const follower = await following();
    const other = await following([], `${url()}?other`);
    receiver.answer = 503;
    await recordAct(fixture.db, act({ subject: 'one' }));
    await recordAct(fixture.db, act({ subject: 'two' }));
    start();
    const failing = await isAt(follower, 'a try failed', ({ tries }) => tries === 1);
    await isAt(other, 'so did that of another', ({ tries }) => tries === 1);
    expect(failing.problem).to.match(/^answered 503/);
    expect([failing.waiting, failing.nextAt - clock.now()]).to.deep.equal([2, 30_000]);
    receiver.answer = 200;
    pass(minute);
    for (const one of [follower, other]) await isAt(one, 'all was sent', ({ waiting }) => waiting === 0);
    const toFirst = (await changesOf(fixture.db, follower.id, 10, null)).map(({ change }) => change.name);
    expect(toFirst).to.deep.equal(['two', 'one']);
    // Sent again, each had the id that it had before.
    const ids = new Map<string, Set<unknown>>();
    for (const { id, data } of sent()) ids.set(id, (ids.get(id) ?? new Set()).add(data['name']));
    expect([...ids.values()].every((names) => names.size === 1)).to.equal(true);
    expect(ids.size).to.equal(4);
    expect(await followerById(fixture.db, follower.id)).to.include({ tries: 0, failingSince: null, problem: null });
  });

  it('are sent again what was taken when that could not be noted', async () => {
    const follower = await following();
    await recordAct(fixture.db, act());
    let lost = 0;
    const forgetful: Database = {
      ...inherited(fixture.db),
      rows: (statement, values) => {
        if (!statement.includes('with sent as') || lost > 0) return fixture.db.rows(statement, values);
        lost++;
        return Promise.reject(new Error('the connection was lost'));
      }
    };
    start(forgetful);
    await isAt(follower, 'it was tried', ({ tries }) => tries === 1);
    pass(minute);
    await isAt(follower, 'it was sent', ({ waiting }) => waiting === 0);
    expect(sent().map(({ id }) => id)).to.have.length(2);
    expect(new Set(sent().map(({ id }) => id)).size).to.equal(1);
  });

  it('are held by one process at a time, and taken over from one that ended without a word', async () => {
    const follower = await following();
    for (let index = 0; index < 20; index++) await recordAct(fixture.db, act({ subject: `n${index}` }));
    start();
    start();
    start();
    await isAt(follower, 'all was sent', ({ waiting }) => waiting === 0);
    expect(sent().map(({ data }) => data['name'])).to.deep.equal(Array.from({ length: 20 }, (_, index) => `n${index}`));
    await stopAll();
    // Somebody holds it who is gone.
    await recordAct(fixture.db, act({ subject: 'late' }));
    await fixture.db.rows('update followers set next_at = $2 where id = $1', [follower.id, later(clock.now(), minute)]);
    start();
    pass(times(2, minute));
    await isAt(follower, 'the late one was sent', ({ waiting }) => waiting === 0);
    // A clock that was set back by a year does not hold it for a year.
    await recordAct(fixture.db, act({ subject: 'back' }));
    await fixture.db.rows('update followers set next_at = $2 where id = $1', [
      follower.id,
      later(clock.now(), times(365, day))
    ]);
    await isAt(follower, 'the one after was sent', ({ waiting }) => waiting === 0);
  });

  it('that take nothing for three days are switched off, and go on where they were once they are on again', async () => {
    const follower = await following();
    receiver.answer = 500;
    await recordAct(fixture.db, act({ subject: 'waits' }));
    start();
    await isAt(follower, 'a try failed', ({ tries }) => tries === 1);
    pass(times(3, day));
    const off = await isAt(follower, 'it is off', ({ stoppedAt }) => stoppedAt !== null);
    expect(off.follower.isOn).to.equal(false);
    expect(off.problem).to.match(/^answered 500/);
    receiver.answer = 204;
    await saveFollower(context(), off.id, off.version, { ...off.follower, isOn: true }, 'Kaja');
    const on = await isAt(follower, 'it was sent', ({ waiting }) => waiting === 0);
    expect(on).to.include({ stoppedAt: null, problem: null, tries: 0 });
  });

  it('go on at once when a follower that failed is saved again', async () => {
    const follower = await following();
    receiver.answer = 503;
    await recordAct(fixture.db, act({ subject: 'waits' }));
    start();
    const failing = await isAt(follower, 'a try failed', ({ tries }) => tries === 1);
    receiver.answer = 204;
    await saveFollower(context(), failing.id, failing.version, { ...failing.follower, isOn: false }, 'Kaja');
    const off = await isAt(follower, 'it is off', ({ follower: { isOn } }) => !isOn);
    await saveFollower(context(), off.id, off.version, { ...off.follower, isOn: true }, 'Kaja');
    const on = await isAt(follower, 'it was sent, though no time has passed', ({ waiting }) => waiting === 0);
    expect(on).to.include({ tries: 0, problem: null });
    expect(sent().map(({ data }) => data['name'])).to.deep.equal(['waits', 'waits']);
  });

  it('are called at no address that the policy forbids', async () => {
    const inside = await following([], 'http://169.254.169.254/latest');
    await recordAct(fixture.db, act());
    start();
    const refused = await isAt(inside, 'it was refused', ({ tries }) => tries > 0);
    expect(refused.problem).not.to.match(/answered/);
  });

  it('sign with every secret that counts, as their webhook does', async () => {
    const follower = await following();
    await rotateSecret(fixture.db, sealing, follower.follower.channelId, clock.now());
    await recordAct(fixture.db, act());
    start();
    await isAt(follower, 'it was sent', ({ waiting }) => waiting === 0);
    expect(String(receiver.received[0]?.headers['webhook-signature']).split(' ')).to.have.length(2);
  });
});

/** A database whose own methods are kept, so that one can be replaced. */
const inherited = (db: Database): Database => ({
  rows: (statement, values) => db.rows(statement, values),
  transaction: (work) => db.transaction(work),
  close: () => db.close()
});
