import { expect } from 'chai';
import { withDatabase } from '../../../../tests/support/database';
import { alarm } from '../../../../tests/support/alarm';
import { storeIncident } from '../../../../tests/support/incidents';
import type { Severity } from '../../core/alarm';
import { groupedMessage, mostNamed } from '../../core/notify';
import type { ThreadMessage } from '../../core/notify/route';
import { after, instant, minute } from '../../core/time';
import { insertAlarm } from '../alarms/alarms';
import { contentOf } from './content';

describe('what a message of a thread says', () => {
  const fixture = withDatabase();
  const now = instant(1_777_881_600_000);
  const route = { group: { by: 'alarm' as const, wait: 0, atMostEvery: 0 } };
  let alarmId = 0;
  before(async () => {
    alarmId = (await insertAlarm(fixture.db, alarm, 'test', now)).id;
  });
  afterEach(() => fixture.db.rows('truncate incidents, incident_events cascade'));

  const incident = async (severity: Severity, closed: 'open' | 'clear' | 'dismissed' = 'open', of = alarmId) => {
    const ended = after(now, minute);
    const id = await storeIncident(fixture.db, now, {
      ...{ alarmId: of, severity },
      closedAt: closed === 'clear' ? ended : null,
      dismissedAt: closed === 'dismissed' ? ended : null
    });
    await fixture.db.rows(`update incidents set labels = jsonb_build_object('resource', 'm-' || id) where id = $1`, [
      id
    ]);
    return id;
  };
  type News = ThreadMessage['news'];
  const made = (news: News, why: ThreadMessage['why'] = 'news', open: readonly number[] = []) =>
    contentOf(fixture.db, route, { why, at: now, to: [], news, open }, ['Nerea Olmo'], false);
  const opened = (incidentId: number): News[number] => ({ incidentId, kind: 'opened', at: now });
  const closed = (incidentId: number): News[number] => ({ incidentId, kind: 'closed', at: now });
  const subjectOf = async (...args: Parameters<typeof made>) => {
    const content = (await made(...args))?.content;
    if (content?.kind !== 'grouped') throw new Error(String(content?.kind));
    return groupedMessage(content, { zone: 'UTC', now, origin: '' }).subject;
  };

  it('names the gravest of many, wherever it stands among them', async () => {
    const ids: number[] = [];
    for (let index = 0; index < mostNamed + 5; index++) ids.push(await incident('warning'));
    ids.push(await incident('critical'));
    const content = (await made(ids.map(opened)))?.content;
    if (content?.kind !== 'grouped') throw new Error(String(content?.kind));
    expect(content.incidents).to.have.length(mostNamed);
    expect(content.incidents[0]?.incidentId).to.equal(ids.at(-1));
    expect([content.more, content.moreClear, content.moreClosed]).to.deep.equal([6, 0, 0]);
    expect(await subjectOf(ids.map(opened))).to.match(
      new RegExp(`^CRITICAL 26 raised on ${alarm.name}: m-${ids.at(-1)}, m-${ids[0]} and 24 more$`)
    );
    expect(await subjectOf([], 'repeat', ids), 'when it is repeated, too').to.match(
      /^CRITICAL 26 raised .*, not acknowledged$/
    );
  });

  it('names those that can be said, however many graver ones have lost their alarm', async () => {
    const { id: lost } = await insertAlarm(fixture.db, { ...alarm, name: 'Lost' }, 'test', now);
    const ids: number[] = [];
    for (let index = 0; index < mostNamed + 2; index++) ids.push(await incident('critical', 'open', lost));
    const kept = await incident('minor');
    await fixture.db.rows('update alarms set removed_at = $2 where id = $1', [lost, now]);
    const content = (await made([...ids, kept].map(opened)))?.content;
    if (content?.kind !== 'grouped') throw new Error(String(content?.kind));
    expect(content.incidents.map(({ incidentId }) => incidentId)).to.deep.equal([kept]);
    expect(content.more).to.equal(ids.length);
  });

  it('counts what is over, and what a person closed, beyond those that it names', async () => {
    const news: News[number][] = [];
    for (let index = 0; index < 30; index++) news.push(closed(await incident('major', 'clear')));
    for (let index = 0; index < 4; index++) news.push(closed(await incident('major', 'dismissed')));
    const up = await incident('minor');
    news.push(opened(up));
    expect(await subjectOf(news)).to.match(new RegExp(`^MINOR 1 raised, 30 clear, 4 closed on .*: m-${up}, `));
  });

  it('of one incident says it alone, by the last thing that happened to it', async () => {
    const open = await incident('major');
    const again = [opened(open), closed(open), opened(open)];
    expect((await made(again))?.content).to.deep.include({
      kind: 'incident',
      news: 'raised',
      notified: ['Nerea Olmo']
    });
    const clear = await incident('major', 'clear');
    expect((await made([closed(clear)]))?.content).to.deep.include({ news: 'cleared' });
    expect((await made([opened(clear), closed(clear)]))?.content).to.deep.include({ news: 'passed' });
    const dismissed = await incident('major', 'dismissed');
    expect((await made([closed(dismissed)]))?.content).to.deep.include({ news: 'dismissed' });
    expect((await made([], 'step', [clear]))?.content, 'whoever has not answered').to.deep.include({ news: 'raised' });
  });

  it('is nothing once no alarm or incident of it is there', async () => {
    const id = await incident('major');
    await fixture.db.rows('update incidents set alarm_id = null where id = $1', [id]);
    expect(await made([opened(id)])).to.equal(null);
    expect(await made([opened(999_999)])).to.equal(null);
    const other = await incident('minor');
    const both = await made([opened(id), opened(other)]);
    expect(both?.incidentIds).to.deep.equal([id, other]);
    expect(both?.content).to.deep.include({ kind: 'grouped', more: 1 });
  });
});
