import { expect } from 'chai';
import { confirmedChannel, mailsTo, withHouse } from '../../../../tests/support/bussola';
import { chanceOf } from '../../../../tests/support/chance';
import { refusalOf } from '../../../../tests/support/refusal';
import { until } from '../../../../tests/support/until';
import { lastWhole, nextSending, summaryPlanSchema, type SummaryPlan } from '../../core/summary';
import { after, day, times, type Instant } from '../../core/time';
import { draftOf, insertChannel } from '../notify/channels';
import { allRemovals } from '../removals/removals';
import { restore, resting } from '../removals/resting';
import { linkOf } from './enclose-summary';
import { addPlan, removePlan, savePlan } from './manage-plans';
import { allPlans, duePlans, planById } from './plans';
import { sendSummary, startSummaries } from './send-plans';
import { endLink, listSummaries, summaryById } from './summaries';
import { summaryCsv } from './summary-csv';
import { summaryOfToken, summaryToken } from './summary-links';

const zone = 'Europe/Rome';
const planned = (channels: readonly number[], more: object = {}): SummaryPlan =>
  summaryPlanSchema.parse({ name: 'Week', kind: 'week', at: '08:00', zone, channels, ...more });

describe('summaries that leave Bussola', () => {
  const house = withHouse();
  const server = () => house.bussola;

  describe('that are sent', () => {
    it('leave once, whoever looks, at their time, and then a week later', async () => {
      const { db, clock } = server();
      const channel = await confirmedChannel(house, 'harbour@example.test');
      const unconfirmed = await insertChannel(
        db,
        server().secrets,
        draftOf({ kind: 'email', name: 'Silent', address: 'silent@example.test' }),
        { at: clock.now(), by: 'Kaja', personId: null }
      );
      const made = await addPlan(server(), planned([channel, unconfirmed.id]), 'Kaja');
      expect(made.nextAt).to.equal(nextSending(made.plan, clock.now()));
      // Two more look beside the one that Bussola has itself.
      const others = [startSummaries(server()), startSummaries(server())];
      expect(await duePlans(db, clock.now())).to.deep.equal([]);
      house.clock.pass(((made.nextAt as number) - clock.now()) / 60_000 + 1);
      await until('the mail', () =>
        mailsTo(house, 'harbour@example.test').some(({ subject }) => subject.startsWith('Week: '))
      );
      const next = await planById(db, made.id);
      expect(next?.nextAt).to.equal(nextSending(made.plan, clock.now()));
      expect(next?.version, 'as people saved it').to.equal(1);
      // Three weeks later, as after a long failure: one alone, of the newest week.
      house.clock.pass(3 * 7 * 24 * 60);
      await until('the next one', async () => (await listSummaries(db, 10)).length >= 2);
      const mails = () => mailsTo(house, 'harbour@example.test').filter(({ subject }) => subject.startsWith('Week: '));
      await until('its mail', () => mails().length >= 2);
      for (const one of others) await one.stop();
      const sent = await listSummaries(db, 10);
      expect(sent).to.have.length(2);
      expect(sent[0]?.summary.from).to.equal(lastWhole('week', clock.now(), zone).from);
      expect(mailsTo(house, 'silent@example.test').filter(({ subject }) => subject.startsWith('Week'))).to.deep.equal(
        []
      );
      const [newest, ...older] = mails();
      expect(older).to.have.length(1);
      expect(newest?.files.map(({ name, type }) => [name.split('.').pop(), type])).to.deep.equal([
        ['pdf', 'application/pdf'],
        ['csv', 'text/csv']
      ]);
      expect(newest?.files[1]?.bytes.toString()).to.equal(summaryCsv(sent[0]?.summary as never));
      expect(newest?.html).to.contain(`/read/${summaryToken(server().secrets, sent[0] as never)}`);
      await savePlan(server(), made.id, 1, { ...made.plan, enabled: false }, 'Kaja');
      expect((await planById(db, made.id))?.nextAt).to.equal(null);
    }).timeout(180_000);

    it('are sent by hand as well, which moves nothing; of one that was changed meanwhile nothing is sent', async () => {
      const channel = await confirmedChannel(house, 'owners@example.test');
      const made = await addPlan(server(), planned([channel], { name: 'Month', kind: 'month' }), 'Kaja');
      expect((await sendSummary(server(), made, null, 'Nerea'))?.channels).to.equal(1);
      expect(await planById(server().db, made.id)).to.deep.equal(made);
      const stale = { ...made, version: 9 };
      expect(await sendSummary(server(), stale, nextSending(made.plan, house.clock.now()), 'Bussola')).to.equal(null);
      const [newest] = await listSummaries(server().db, 1);
      expect([newest?.madeBy, newest?.name]).to.deep.equal(['Nerea', 'Month']);
    }).timeout(90_000);

    it('are due at their time again after a clock that was ahead is set back', async () => {
      const { db, clock } = server();
      const channel = await confirmedChannel(house, 'ahead@example.test');
      const made = await addPlan(server(), planned([channel], { name: 'Ahead' }), 'Kaja');
      await db.rows('update summary_plans set next_at = $2 where id = $1', [
        made.id,
        after(clock.now(), times(400, day))
      ]);
      await until('it is due as it was', async () => (await planById(db, made.id))?.nextAt === made.nextAt);
      expect(
        (await listSummaries(db, 50)).some(({ name }) => name === 'Ahead'),
        'nothing is sent for it'
      ).to.equal(false);
    }).timeout(90_000);

    it('refuse channels that are not there, and what somebody else has changed', async () => {
      const channel = await confirmedChannel(house, 'crew@example.test');
      expect((await refusalOf(addPlan(server(), planned([channel, 9999]), 'Kaja')))?.path).to.deep.equal([
        'channels',
        1
      ]);
      const made = await addPlan(server(), planned([channel]), 'Kaja');
      await savePlan(server(), made.id, 1, planned([channel], { name: 'Other' }), 'Nerea');
      const late = await refusalOf(savePlan(server(), made.id, 1, made.plan, 'Kaja'));
      expect([late?.code, late?.message]).to.deep.equal(['changed-meanwhile', 'Nerea changed this summary meanwhile.']);
      expect((await refusalOf(savePlan(server(), 9999, 1, made.plan, 'Kaja')))?.code).to.equal('not-found');
      expect((await refusalOf(removePlan(server(), 9999)))?.code).to.equal('not-found');
    });

    it('rest when they are removed, and are restored with what they sent', async () => {
      const channel = await confirmedChannel(house, 'resting@example.test');
      const made = await addPlan(server(), planned([channel], { name: 'Resting' }), 'Kaja');
      const sent = await sendSummary(server(), made, null, 'Kaja');
      const removed = { kind: 'summary-plans', id: made.id, by: 'Kaja' };
      await resting(server(), removed, (inner) => removePlan(inner, made.id));
      expect((await allPlans(server().db)).some(({ id }) => id === made.id)).to.equal(false);
      expect((await summaryById(server().db, sent?.summaryId ?? 0))?.planId).to.equal(null);
      const [newest] = await allRemovals(server().db, 1, 1);
      expect(newest?.name).to.equal('Resting');
      await restore(server(), newest?.id ?? 0, { id: 1, role: 'editor' });
      expect(await planById(server().db, made.id)).to.deep.equal(made);
      expect((await summaryById(server().db, sent?.summaryId ?? 0))?.planId).to.equal(made.id);
    }).timeout(90_000);
  });

  describe('that are read by link', () => {
    it('are found by theirs alone, until it expires or is ended', async () => {
      const { db, secrets, clock } = server();
      const [one, other] = await listSummaries(db, 2);
      if (one === undefined || other === undefined) throw new Error('two were sent');
      const now = clock.now();
      const token = summaryToken(secrets, one);
      expect((await summaryOfToken(server(), token, now))?.id).to.equal(one.id);
      expect(linkOf(server(), one)).to.match(/\/read\/[\w-]+$/);
      // Any other letter in any place leads nowhere.
      const random = chanceOf(9);
      for (let index = 0; index < token.length; index++) {
        const letter = 'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789-_'[
          Math.floor(random.unit() * 64)
        ] as string;
        if (letter === token[index]) continue;
        const wrong = token.slice(0, index) + letter + token.slice(index + 1);
        expect(await summaryOfToken(server(), wrong, now), wrong).to.equal(null);
      }
      for (const wrong of ['', 'x', `${token}A`, token.slice(1), '%00', '../..'])
        expect(await summaryOfToken(server(), wrong, now)).to.equal(null);
      expect(await summaryOfToken(server(), token, one.linkUntil as Instant), 'expired').to.equal(null);
      expect(await endLink(db, one.id)).to.equal(true);
      expect(await endLink(db, one.id), 'once').to.equal(false);
      expect(await summaryOfToken(server(), token, now), 'ended').to.equal(null);
      expect((await summaryOfToken(server(), summaryToken(secrets, other), now))?.id, 'others stay').to.equal(other.id);
    });
  });
});
