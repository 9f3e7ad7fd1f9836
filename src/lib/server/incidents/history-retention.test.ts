import { rule, threshold } from '../../../../tests/support/alarm';
import { expect } from 'chai';
import { withDatabase } from '../../../../tests/support/database';
import { alarmForm, alarmSchema, type Evidence } from '../../core/alarm';
import { writeStored } from '../../core/forms/stored';
import { usualPlan } from '../../core/intake';
import type { Instant } from '../../core/time';
import { allAlarms, insertAlarm, removeAlarm, unreadableAlarms } from '../alarms/alarms';
import { deleteAccount, insertAccount, markRemoved, removedAccounts } from '../inventory/accounts';
import { insertEmailChannel, removeChannel } from '../notify/channels';
import { insertMessage, messageById } from '../notify/outbox';
import { messagesOfIncident } from '../notify/outbox-lists';
import { planOf, savePlan } from '../intake/plan/plans';
import { unreadableStored } from '../doctor/unreadable';
import { forgetHistory, historyDue } from './history-retention';
import { closeIncident, incidentContent, openIncident } from '../../../../tests/support/incidents';
import { changesOfIncident, incidentById } from './incidents';

const day = 86_400_000;
const at = (days: number) => (days * day) as Instant;
const definition = alarmSchema.parse({
  name: 'Queue too long',
  signal: { version: 2, step: 'PT1M', rows: [{ name: 'a', metric: 'queue.depth', where: [], statistic: 'avg' }] },
  rule: rule(1, 1, { levels: [threshold('above', 10)] }),
  route: null
});
const evidence: Evidence = {
  ...{ start: 0, step: 60_000, values: [12, null], low: [null], high: [10], codes: '12' },
  ...{ met: 1, missing: 1, well: 0, level: threshold('above', 10), alarmVersion: 1 },
  ...{ window: definition.rule.window, whenMissing: definition.rule.whenMissing }
};

describe('the history of what happened', () => {
  const fixture = withDatabase();
  let alarmId: number;
  let accountId: number;
  let channelId: number;
  const labels = { account: 'corallo-prod', service: 'queues', region: 'adria-1', resource: 'fares' };

  before(async () => {
    accountId = (await insertAccount(fixture.db, newAccount())).id;
    alarmId = (await insertAlarm(fixture.db, definition, 'Nerea', at(0))).id;
    const channel = { name: 'Night', address: 'night@example.test', createdAt: at(0), createdBy: 'Nerea' };
    channelId = (await insertEmailChannel(fixture.db, channel)).id;
  });
  const newAccount = () => ({
    ...{ name: 'corallo-prod', provider: 'levante', endpoint: 'http://x.test', keyId: 'k' },
    ...{ sealedSecret: Buffer.from('secret'), createdAt: at(0), createdBy: 'Kaja', historyFrom: at(0) }
  });

  /** An incident of some days with its change of state and a message. */
  async function incident(opened: number, closed: number | null): Promise<number> {
    const watched = { key: `${opened}`, labels, seriesId: null, accountId };
    const made = { ...watched, alarmId, unit: '1', severity: 'major' as const, openedAt: at(opened) };
    const id = await openIncident(fixture.db, made, evidence);
    await insertMessage(fixture.db, {
      ...{ channelId, incidentId: id, alarmId, content: incidentContent(id) },
      ...{ priority: 0, createdAt: at(opened) }
    });
    if (closed !== null) await closeIncident(fixture.db, id, at(closed));
    return id;
  }

  it('keeps incidents as long as the plan of their account and service says, with all that belongs to them', async () => {
    const [old, young, open] = [await incident(1, 2), await incident(50, 51), await incident(1.5, null)];
    const now = at(100);
    expect((await historyDue(fixture.db, now)).incidents).to.equal(0);
    const suppose = (service: string, incidentDays: number) =>
      historyDue(fixture.db, now, { accountId, service, keep: { eventDays: 60, incidentDays } });
    expect((await suppose('queues', 60)).incidents).to.equal(1);
    expect((await suppose('queues', 30)).incidents).to.equal(2);
    expect((await suppose('machines', 1)).incidents).to.equal(0);
    const plan = { ...usualPlan, keep: { ...usualPlan.keep, incidentDays: 60 } };
    await savePlan(fixture.db, accountId, 'queues', plan, 'Kaja', at(0));
    expect((await historyDue(fixture.db, now)).incidents).to.equal(1);
    await forgetHistory(fixture.db, now);
    expect(await incidentById(fixture.db, old)).to.equal(null);
    expect(await messagesOfIncident(fixture.db, old)).to.deep.equal([]);
    expect((await changesOfIncident(fixture.db, young)).map((one) => one.evidence)).to.deep.equal([evidence]);
    expect(await incidentById(fixture.db, open)).not.to.equal(null);
    await closeIncident(fixture.db, open, now);
  });

  it('removes events and messages about no incident after their time, some at a time', async () => {
    await fixture.db.rows(
      `insert into events (account_id, provider_id, at, kind, text, subject)
       select $1, 'e' || n, n * $2::bigint, 'restart', 'x', '{}' from generate_series(1, 2500) as n`,
      [accountId, day]
    );
    await insertMessage(fixture.db, {
      ...{ channelId, incidentId: null, alarmId: null, content: { kind: 'confirm' } },
      ...{ priority: 0, createdAt: at(1) }
    });
    const queued = await historyDue(fixture.db, at(2900));
    expect([queued.events, queued.messages]).to.deep.equal([2499, 0]); // what has not left yet stays
    await fixture.db.rows(`update outbox set state = 'sent' where kind = 'confirm'`);
    expect((await historyDue(fixture.db, at(2900))).messages).to.equal(1);
    await savePlan(fixture.db, accountId, 'queues', usualPlan, 'Kaja', at(0));
    await forgetHistory(fixture.db, at(1800));
    expect(await fixture.db.rows('select min(at) as oldest from events')).to.deep.equal([{ oldest: 1400 * day }]);
  });

  it('keeps the names of an alarm and a channel that were removed', async () => {
    const id = await incident(1790, null);
    const [{ id: queued }] = (await fixture.db.rows<{ id: number }>('select id from outbox where incident_id = $1', [
      id
    ])) as [{ id: number }];
    await fixture.db.transaction((within) => removeChannel(within, channelId));
    await fixture.db.transaction((within) => removeAlarm(within, alarmId, at(1795)));
    const left = (await incidentById(fixture.db, id))!;
    expect([left.alarm, left.alarmId, left.closedAt]).to.deep.equal(['Queue too long', null, at(1795)]);
    expect((await changesOfIncident(fixture.db, id)).map(({ to }) => to)).to.deep.equal(['raised']);
    expect((await messagesOfIncident(fixture.db, id)).map(({ channel, address }) => [channel, address])).to.deep.equal([
      ['Night', 'night@example.test']
    ]);
    expect((await messageById(fixture.db, queued))?.state).to.equal('withdrawn');
    expect(await fixture.db.transaction((within) => removeAlarm(within, alarmId, at(1795)))).to.equal(false);
  });

  it('keeps what an account was called, and takes it up again when it is connected anew', async () => {
    const [{ id }] = (await fixture.db.rows<{ id: number }>('select id from incidents order by id desc limit 1')) as [
      { id: number }
    ];
    const remove = (erase: boolean) =>
      fixture.db.transaction((within) => markRemoved(within, accountId, { erase, at: at(1796), by: 'Kaja' }));
    await remove(false);
    expect((await removedAccounts(fixture.db)).map(({ name, erase }) => [name, erase])).to.deep.equal([
      ['corallo-prod', false]
    ]);
    expect((await incidentById(fixture.db, id))?.account).to.equal('corallo-prod');
    expect((await insertAccount(fixture.db, newAccount())).id).to.equal(accountId);
    expect(await removedAccounts(fixture.db)).to.deep.equal([]);
    await deleteAccount(fixture.db, accountId); // nothing: it is not to be erased
    await remove(true);
    await insertAccount(fixture.db, newAccount()).then(
      () => expect.fail('an account that is being erased was taken up again'),
      ({ code }: { code: string }) => expect(code).to.equal('name-taken')
    );
    await deleteAccount(fixture.db, accountId);
    expect((await incidentById(fixture.db, id))?.account).to.equal('corallo-prod');
  });

  it('something stored that cannot be read hides nothing else, and is named', async () => {
    await insertAlarm(fixture.db, definition, 'Nerea', at(0));
    await fixture.db.rows(
      `insert into alarms (name, definition, created_at, created_by, changed_at, changed_by) values ('Bent', $1, 0, 'x', 0, 'x')`,
      [writeStored({ ...alarmForm, version: 99 }, definition)]
    );
    expect((await allAlarms(fixture.db)).map(({ definition: { name } }) => name)).to.deep.equal(['Queue too long']);
    const [problem] = await unreadableAlarms(fixture.db);
    expect(problem?.message).to.match(/^The alarm “Bent” cannot be read as it is stored\. It has version 99/);
    const { id } = await insertAccount(fixture.db, newAccount());
    await savePlan(fixture.db, id, 'queues', { ...usualPlan, collect: 'nothing' }, 'Kaja', at(0));
    expect((await planOf(fixture.db, id, 'queues')).collect).to.equal('nothing');
    await fixture.db.rows(`update plans set plan = jsonb_set(plan, '{version}', '99')`);
    expect(await planOf(fixture.db, id, 'queues')).to.deep.equal(usualPlan);
    await fixture.db.rows(`update state_changes set evidence = '[]' where id = (select max(id) from state_changes)`);
    expect((await unreadableStored(fixture.db)).map(({ code }) => code)).to.deep.equal([
      'stored-unreadable',
      'stored-unreadable',
      'stored-unreadable'
    ]);
  });
});
