import { expect } from 'chai';
import { alarm } from '../../../../tests/support/alarm';
import { hasPostgres } from '../../../../tests/support/database';
import { withFollowers } from '../../../../tests/support/followers';
import { openIncident } from '../../../../tests/support/incidents';
import { refusalOf } from '../../../../tests/support/refusal';
import { until } from '../../../../tests/support/until';
import { changeKinds, changedBy } from '../../core/followers';
import { before as earlier, day, times, type Instant } from '../../core/time';
import { insertAlarm } from '../alarms/alarms';
import { operations } from '../api/operations';
import { recordAct } from '../audit/acts';
import { knownPageActs } from '../audit/page-acts';
import { changesOf, followerById, forgetChanges, type StoredFollower } from './followers';
import { addFollower, removeFollower, saveFollower } from './manage-followers';

describe('followers of changes', function () {
  this.timeout(90_000);
  const { fixture, clock, context, webhook, following, start, act, sent, isAt } = withFollowers();

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
    const { id: alarmId } = await insertAlarm(fixture.db, alarm, 'test', clock.now());
    const series = { key: 'k', labels: { resource: 'gate-api-1' }, seriesId: null, accountId: null };
    const incident = await openIncident(fixture.db, {
      alarmId,
      ...series,
      unit: '%',
      severity: 'major',
      openedAt: clock.now()
    });
    await fixture.db
      .transaction(async (within) => {
        await within.rows(
          `insert into incident_events (incident_id, kind, at, recorded_at, severity) values ($1, 'severity', $2, $2, 'critical')`,
          [incident, clock.now()]
        );
        throw new Error('taken back');
      })
      .catch((error: unknown) => expect(String(error)).to.contain('taken back'));
    await fixture.db.rows(
      `insert into incident_events (incident_id, kind, at, recorded_at, severity, value) values ($1, 'opened', $2, $2, 'major', 97.5)`,
      [incident, clock.now()]
    );
    await fixture.db.rows(
      `insert into incident_events (incident_id, kind, at, recorded_at, by) values ($1, 'acknowledged', $2, $2, 'Nerea')`,
      [incident, clock.now()]
    );
    await fixture.db.rows(
      `insert into incident_events (alarm_id, kind, at, recorded_at) values ($1, 'unjudged', $2, $2)`,
      [alarmId, clock.now()]
    );
    start();
    await isAt(follower, 'all was sent', ({ waiting }) => waiting === 0);
    expect(sent().map(({ data }) => data['action'])).to.deep.equal(['opened', 'unjudged']);
    expect(sent()[1]?.data).to.deep.include({
      ...{ name: alarm.name, alarm: alarmId, what: 'Cannot judge an alarm' },
      link: `https://b.example.test/alarms/${alarmId}`
    });
    expect(sent()[0]?.data).to.deep.include({
      what: 'Raises an incident',
      severity: 'major',
      value: 97.5,
      id: incident
    });
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

  // The embedded database does one thing at a time.
  if (hasPostgres)
    it('that are removed while something changes fail nothing', async () => {
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
    const at = (days: number): Instant => earlier(clock.now(), times(days, day));
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
