import { expect } from 'chai';
import { Webhook } from 'standardwebhooks';
import { alarm } from '../../../../tests/support/alarm';
import { openIncident } from '../../../../tests/support/incidents';
import { hasPostgres, withDatabase } from '../../../../tests/support/database';
import { Receiver } from '../../../../tests/support/receiver';
import { refusalOf } from '../../../../tests/support/refusal';
import { sealing } from '../../../../tests/support/sealing';
import { until } from '../../../../tests/support/until';
import { changeKinds, changedBy, type Follower } from '../../core/followers';
import { after as later, before as earlier, day, minute, times, type Instant } from '../../core/time';
import { insertAlarm } from '../alarms/alarms';
import { operations } from '../api/operations';
import { recordAct, type NewAct } from '../audit/acts';
import { knownPageActs } from '../audit/page-acts';
import { Changes } from '../base/changes';
import { systemClock } from '../base/clock';
import { loggerOf } from '../base/logger';
import type { Database } from '../db/pool';
import { confirmChannel } from '../notify/channel-confirmation';
import { draftOf, insertChannel, rotateSecret } from '../notify/channels';
import { outboundTo } from '../providers/port/outbound';
import { changesOf, followerById, forgetChanges, type StoredFollower } from './followers';
import { addFollower, removeFollower, saveFollower } from './manage-followers';
import { startSendingChanges } from './send-changes';

describe('followers of changes', function () {
  this.timeout(90_000);
  const fixture = withDatabase();
  const receiver = new Receiver();
  let url = '';
  // Receivers take no signature that is old, by the clock of the machine.
  let now = systemClock.now();
  const clock = { now: () => now };
  const running: { stop(): Promise<void> }[] = [];
  let names = 0;

  before(async () => {
    url = await receiver.open();
    now = systemClock.now();
  });
  after(() => receiver.close());
  beforeEach(() => {
    receiver.received.length = 0;
    receiver.answer = 204;
  });
  afterEach(async () => {
    for (const one of running.splice(0)) await one.stop();
    await fixture.db.rows('delete from followers');
  });

  const context = () => ({ db: fixture.db, clock, changes: new Changes() });
  async function webhook(address = `${url}?${++names}`, kind: 'webhook' | 'email' = 'webhook', isConfirmed = true) {
    const draft = draftOf(
      kind === 'email'
        ? { kind, name: 'Mail', address: `n${++names}@example.test` }
        : { kind, name: 'Sync', address, mode: 'structured' }
    );
    const { id } = await insertChannel(fixture.db, sealing, draft, { at: now, by: 'Kaja' });
    if (isConfirmed) await confirmChannel(fixture.db, id, now);
    return { id, secret: draft.secret.secrets?.[0]?.secret ?? '' };
  }
  const following = async (kinds: Follower['kinds'] = [], address?: string) => {
    const { id: channelId, secret } = await webhook(address);
    return { ...(await addFollower(context(), { channelId, kinds, isOn: true }, 'Kaja')), secret };
  };
  function start(db: Database = fixture.db) {
    const parts = {
      ...context(),
      db,
      secrets: sealing,
      log: loggerOf({ logLevel: 'silent', secrets: [] }),
      origin: 'https://b.example.test'
    };
    const sending = startSendingChanges({ ...parts, call: outboundTo(['127.0.0.1']), pause: () => 30 });
    running.push(sending);
    parts.changes.tell('followers', {}); // at once
    return sending;
  }
  const act = (changed: Partial<NewAct> = {}): NewAct => ({
    ...{ at: now, personId: 3, by: 'Nerea Olmo', means: 'person', act: 'PUT /alarms/{id}', what: 'Changes an alarm' },
    ...{ subject: 'Queue too long', path: '/alarms/3', id: 3, outcome: 'done', address: '192.0.2.7' },
    ...changed
  });
  const sent = () =>
    receiver.received.map(
      ({ body }) => JSON.parse(body) as { id: string; type: string; subject?: string; data: Record<string, unknown> }
    );
  const isAt = (one: StoredFollower, what: string, check: (now: StoredFollower) => boolean) =>
    until(what, async () => {
      const found = await followerById(fixture.db, one.id);
      return found !== null && check(found) ? found : null;
    });

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
      ...{ id: 3, name: 'first', at: new Date(now).toISOString(), link: 'https://b.example.test/alarms/3' }
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

  it('are sent the kinds that they follow, nothing that was refused, nothing that is read, and nothing while they are off', async () => {
    const boards = await following(['boards', 'incidents']);
    const all = await following();
    const off = await following();
    await saveFollower(context(), off.id, 1, { ...off.follower, isOn: false }, 'Kaja');
    await recordAct(fixture.db, act());
    await recordAct(fixture.db, act({ act: 'PUT /boards/{id}', id: 4 }));
    await recordAct(fixture.db, act({ outcome: 'refused' }));
    await recordAct(fixture.db, act({ act: 'GET /acts' }));
    await recordAct(fixture.db, act({ act: 'sign-in' }));
    const kindsOf = async ({ id }: StoredFollower) =>
      (await changesOf(fixture.db, id, 10, null)).map(({ kind }) => kind);
    expect(await kindsOf(boards)).to.deep.equal(['boards']);
    expect(await kindsOf(all)).to.deep.equal(['boards', 'alarms']);
    expect(await kindsOf(off)).to.deep.equal([]);
  });

  it('are sent each save of a board, though it is written down once in ten minutes', async () => {
    const follower = await following();
    for (let save = 0; save < 3; save++)
      await recordAct(fixture.db, act({ act: 'PUT /boards/{id}', path: '/boards/8', id: 8, by: 'saves' }), true);
    expect(await fixture.db.rows("select 1 from acts where by = 'saves'")).to.have.length(1);
    expect((await followerById(fixture.db, follower.id))?.waiting).to.equal(3);
  });

  it('are sent what Bussola does with incidents, once it is committed', async () => {
    const follower = await following(['incidents']);
    const { id: alarmId } = await insertAlarm(fixture.db, alarm, 'test', now);
    const series = { key: 'k', labels: { resource: 'gate-api-1' }, seriesId: null, accountId: null };
    const incident = await openIncident(fixture.db, {
      alarmId,
      ...series,
      unit: '%',
      severity: 'major',
      openedAt: now
    });
    await fixture.db
      .transaction(async (within) => {
        await within.rows(
          `insert into incident_events (incident_id, kind, at, recorded_at, severity) values ($1, 'severity', $2, $2, 'critical')`,
          [incident, now]
        );
        throw new Error('taken back');
      })
      .catch((error: unknown) => expect(String(error)).to.contain('taken back'));
    await fixture.db.rows(
      `insert into incident_events (incident_id, kind, at, recorded_at, severity, value) values ($1, 'opened', $2, $2, 'major', 97.5)`,
      [incident, now]
    );
    await fixture.db.rows(
      `insert into incident_events (incident_id, kind, at, recorded_at, by) values ($1, 'acknowledged', $2, $2, 'Nerea')`,
      [incident, now]
    );
    start();
    await isAt(follower, 'all was sent', ({ waiting }) => waiting === 0);
    expect(sent().map(({ data }) => data['action'])).to.deep.equal(['opened']);
    expect(sent()[0]?.data).to.deep.include({
      what: 'Raises an incident',
      severity: 'major',
      value: 97.5,
      id: incident
    });
  });

  it('that take nothing are tried again, what comes later waits behind, and nothing is lost', async () => {
    const follower = await following();
    const other = await following([], `${url}?other`);
    receiver.answer = 503;
    await recordAct(fixture.db, act({ subject: 'one' }));
    await recordAct(fixture.db, act({ subject: 'two' }));
    start();
    const failing = await isAt(follower, 'a try failed', ({ tries }) => tries === 1);
    await isAt(other, 'so did that of another', ({ tries }) => tries === 1);
    expect(failing.problem).to.match(/^answered 503/);
    expect([failing.waiting, failing.nextAt - now]).to.deep.equal([2, 30_000]);
    receiver.answer = 200;
    now = later(now, minute);
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
    now = later(now, minute);
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
    for (const one of running.splice(0)) await one.stop();
    // Somebody holds it who is gone.
    await recordAct(fixture.db, act({ subject: 'late' }));
    await fixture.db.rows('update followers set next_at = $2 where id = $1', [follower.id, later(now, minute)]);
    start();
    now = later(now, times(2, minute));
    await isAt(follower, 'the late one was sent', ({ waiting }) => waiting === 0);
    // A clock that was set back by a year does not hold it for a year.
    await recordAct(fixture.db, act({ subject: 'back' }));
    await fixture.db.rows('update followers set next_at = $2 where id = $1', [
      follower.id,
      later(now, times(365, day))
    ]);
    await isAt(follower, 'the one after was sent', ({ waiting }) => waiting === 0);
  });

  it('that take nothing for three days are switched off, and go on where they were once they are on again', async () => {
    const follower = await following();
    receiver.answer = 500;
    await recordAct(fixture.db, act({ subject: 'waits' }));
    start();
    await isAt(follower, 'a try failed', ({ tries }) => tries === 1);
    now = later(now, times(3, day));
    const off = await isAt(follower, 'it is off', ({ stoppedAt }) => stoppedAt !== null);
    expect(off.follower.isOn).to.equal(false);
    expect(off.problem).to.match(/^answered 500/);
    receiver.answer = 204;
    await saveFollower(context(), off.id, off.version, { ...off.follower, isOn: true }, 'Kaja');
    const on = await isAt(follower, 'it was sent', ({ waiting }) => waiting === 0);
    expect(on).to.include({ stoppedAt: null, problem: null, tries: 0 });
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
    await rotateSecret(fixture.db, sealing, follower.follower.channelId, now);
    await recordAct(fixture.db, act());
    start();
    await isAt(follower, 'it was sent', ({ waiting }) => waiting === 0);
    expect(String(receiver.received[0]?.headers['webhook-signature']).split(' ')).to.have.length(2);
  });

  it('are refused what is no webhook, not confirmed, or follows already, and changes that somebody was before', async () => {
    const { id: mail } = await webhook(undefined, 'email');
    const { id: unconfirmed } = await webhook(undefined, 'webhook', false);
    const add = (channelId: number) => addFollower(context(), { channelId, kinds: [], isOn: true }, 'Kaja');
    expect((await refusalOf(add(mail)))?.code).to.equal('invalid');
    expect((await refusalOf(add(999_999)))?.code).to.equal('invalid');
    expect((await refusalOf(add(unconfirmed)))?.code).to.equal('not-confirmed');
    const one = await following();
    const other = await following();
    expect((await refusalOf(add(one.follower.channelId)))?.code).to.equal('name-taken');
    const onto = { ...other.follower, channelId: one.follower.channelId };
    expect((await refusalOf(saveFollower(context(), other.id, 1, onto, 'Kaja')))?.code).to.equal('name-taken');
    await saveFollower(context(), one.id, 1, { ...one.follower, kinds: ['alarms'] }, 'Kaja');
    expect((await refusalOf(saveFollower(context(), one.id, 1, one.follower, 'Nerea')))?.code).to.equal(
      'changed-meanwhile'
    );
    await removeFollower(context(), one.id);
    expect((await refusalOf(removeFollower(context(), one.id)))?.code).to.equal('not-found');
    expect((await refusalOf(saveFollower(context(), one.id, 2, one.follower, 'Kaja')))?.code).to.equal('not-found');
  });

  it('that are removed while something changes fail nothing', async function () {
    if (!hasPostgres) return this.skip(); // the embedded database does one thing at a time
    const follower = await following();
    let recorded: Promise<unknown> = Promise.resolve();
    const isDone = { recorded: false };
    await fixture.db.transaction(async (within) => {
      await within.rows('delete from followers where id = $1', [follower.id]);
      recorded = recordAct(fixture.db, act({ by: 'meanwhile' })).then(() => (isDone.recorded = true));
      await until(
        'it waits',
        async () =>
          (
            await within.rows(
              "select 1 from pg_stat_activity where wait_event_type = 'Lock' and datname = current_database()"
            )
          ).length > 0
      );
      expect(isDone.recorded).to.equal(false);
    });
    await recorded;
    expect(await fixture.db.rows("select 1 from acts where by = 'meanwhile'")).to.have.length(1);
  });

  it('forget what was sent a week ago, and what could not be sent for a month', async () => {
    const follower = await following();
    const at = (days: number): Instant => earlier(now, times(days, day));
    for (const [name, happened, sentAt] of [
      ['old and sent', 8, 8],
      ['sent lately', 8, 6],
      ['waits', 8, null],
      ['waits too long', 31, null]
    ] as const)
      await fixture.db.rows(
        `insert into followed_changes (follower_id, kind, at, change, sent_at) values ($1, 'alarms', $2, $3, $4)`,
        [follower.id, at(happened), JSON.stringify({ name }), sentAt === null ? null : at(sentAt)]
      );
    await forgetChanges(fixture.db, at(7), at(30));
    expect((await changesOf(fixture.db, follower.id, 10, null)).map(({ change }) => change.name)).to.deep.equal([
      'waits',
      'sent lately'
    ]);
  });

  it('know a kind for whatever people may change, by the API or on pages', () => {
    const acts = [
      ...operations.filter(({ isAct }) => isAct).map(({ method, path }) => `${method} ${path}`),
      ...Object.entries(knownPageActs).flatMap(([route, actions]) =>
        actions.map((action) => `${route.replace('/(app)', '')}?/${action}`)
      )
    ].filter((one) => !one.startsWith('GET ') && !one.startsWith('/sign-'));
    expect(acts.length).to.be.above(150);
    for (const one of acts) expect(changedBy(one, null)?.kind, one).to.be.oneOf(Object.keys(changeKinds));
  });
});

/** A database whose own methods are kept, so that one can be replaced. */
const inherited = (db: Database): Database => ({
  rows: (statement, values) => db.rows(statement, values),
  transaction: (work) => db.transaction(work),
  close: () => db.close()
});
