import { expect } from 'chai';
import { confirmedChannel, connect, mailsTo, withHouse } from '../../../../tests/support/bussola';
import { chanceOf } from '../../../../tests/support/chance';
import { storeIncident } from '../../../../tests/support/incidents';
import { refusalOf } from '../../../../tests/support/refusal';
import { until } from '../../../../tests/support/until';
import { severities, type Severity } from '../../core/alarm';
import { dayOf, micros, type BillEntry, type DayNumber } from '../../core/cost';
import {
  lastWhole,
  nextSending,
  periodBefore,
  periodWith,
  summaryPlanSchema,
  type SummaryPlan
} from '../../core/summary';
import {
  after,
  before as earlierThan,
  dateAt,
  day,
  hour,
  instant,
  minute,
  textFromInstant,
  times,
  type Instant,
  type Range
} from '../../core/time';
import { draftOf, insertChannel } from '../notify/channels';
import { insertMark } from '../marks/marks';
import { restore, resting } from '../removals/resting';
import { allRemovals } from '../removals/removals';
import { summaryOf } from './collect';
import { drawDays } from './drawn/draw-days';
import { summaryPdf } from './drawn/summary-pdf';
import { addPlan, removePlan, savePlan } from './manage-plans';
import { allPlans, duePlans, planById } from './plans';
import { sendSummary, startSummaries } from './send-plans';
import { endLink, listSummaries, summaryById } from './summaries';
import { summaryCsv } from './summary-csv';
import { summaryOfToken, summaryToken } from './summary-links';
import { linkOf } from './enclose-summary';

const zone = 'Europe/Rome';
const planned = (channels: readonly number[], more: object = {}): SummaryPlan =>
  summaryPlanSchema.parse({ name: 'Week', kind: 'week', at: '08:00', zone, channels, ...more });
const entry = (service: string, of: DayNumber, euro: number): BillEntry => ({
  item: {
    ...{ resource: service, resourceName: service, resourceType: '', region: '', service, usage: 'hours', unit: 'h' },
    ...{ category: 'usage', currency: 'EUR', labels: {} }
  },
  ...{ day: of, billed: micros(euro * 1_000_000), amortised: micros(euro * 1_000_000), quantity: 1 }
});

describe('summaries', () => {
  const house = withHouse();
  const server = () => house.bussola;
  let week: Range;
  let before_: Range;
  interface Stored {
    readonly at: Instant;
    readonly severity: Severity;
    readonly service: string;
    readonly closedAt: Instant | null;
  }
  const stored: Stored[] = [];

  before(async function () {
    this.timeout(60_000);
    week = lastWhole('week', house.clock.now(), zone);
    before_ = periodBefore('week', week, zone);
    const account = await connect(house, 'corallo-prod');
    const random = chanceOf(5);
    for (let index = 0; index < 160; index++) {
      const at = instant(Math.floor(random.between(before_.from - 3 * day, house.clock.now())));
      const one: Stored = {
        at,
        severity: severities[Math.floor(random.unit() * 4)] as Severity,
        service: ['machines', 'queues', 'objects'][index % 3] as string,
        closedAt: index % 5 === 0 ? null : after(at, times(1 + Math.floor(random.unit() * 600), minute))
      };
      const labels = { service: one.service, resource: `thing-${index}` };
      await storeIncident(server().db, at, { severity: one.severity, labels, closedAt: one.closedAt });
      stored.push(one);
    }
    const [from, to] = [dayOf(dateAt(before_.from, zone)), dayOf(dateAt(week.to, zone))];
    const days = Array.from({ length: to - from }, (_, index) => (from + index) as DayNumber);
    await server().costs.bills.put(
      account.id,
      { from, to },
      days.flatMap((one) => [entry('machines', one, 10 + (one % 3)), entry('objects', one, one < from + 7 ? 4 : 6)]),
      house.clock.now()
    );
    const mark = { text: 'Timetable of May' };
    await insertMark(
      server().db,
      { ...mark, from: textFromInstant(after(week.from, times(5, hour))) },
      { name: 'Kaja', source: 'person' },
      house.clock.now()
    );
    await insertMark(
      server().db,
      { ...mark, text: 'Before it', from: textFromInstant(earlierThan(week.from, times(5, hour))) },
      { name: 'Kaja', source: 'person' },
      house.clock.now()
    );
  });

  const within = ({ from, to }: Range) => stored.filter(({ at }) => at >= from && at < to);

  it('count incidents as counting one by one does: by severity, service and day, against the week before', async () => {
    const { incidents, services } = await summaryOf(server(), 'week', week, zone);
    const [now, then] = [within(week), within(before_)];
    expect(incidents.total).to.equal(now.length);
    expect(incidents.earlier).to.equal(then.length);
    expect(incidents.open).to.equal(stored.filter(({ at, closedAt }) => closedAt === null && at < week.to).length);
    for (const { severity, count, earlier } of incidents.bySeverity) {
      expect(count, severity).to.equal(now.filter((one) => one.severity === severity).length);
      expect(earlier, severity).to.equal(then.filter((one) => one.severity === severity).length);
    }
    expect(incidents.days).to.have.length(7);
    for (const { date, counts } of incidents.days)
      expect(counts, date).to.deep.equal(
        severities.map(
          (severity) => now.filter((one) => dateAt(one.at, zone) === date && one.severity === severity).length
        )
      );
    for (const { service, count, worst } of services) {
      const own = now.filter((one) => one.service === service);
      expect(count, service).to.equal(own.length);
      const gravest = severities.findLast((severity) => own.some((one) => one.severity === severity)) ?? null;
      expect(worst, service).to.equal(gravest);
    }
    expect(services.find(({ service }) => service === 'machines')?.resources).to.be.greaterThan(5);
  });

  it('list what lasted longest within them, what is open until their end', async () => {
    const { longest } = await summaryOf(server(), 'week', week, zone);
    const lengths = stored
      .map(({ at, closedAt }) => Math.min(closedAt ?? Infinity, week.to) - Math.max(at, week.from))
      .filter((length, index) => length > 0 && (stored[index] as Stored).at < week.to)
      .sort((a, b) => b - a);
    expect(longest.map(({ length }) => length)).to.deep.equal(lengths.slice(0, 10));
    expect(longest[0]?.subject).to.match(/^thing-\d+/);
  });

  it('add up what was billed, against as many days before, and list what was marked', async () => {
    const { cost, changed } = await summaryOf(server(), 'week', week, zone);
    const total = cost?.days.reduce((sum, { amount }) => sum + (amount ?? 0), 0);
    expect(cost?.total).to.equal(total);
    expect(cost?.days.map(({ amount }) => amount === null)).to.deep.equal(Array(7).fill(false));
    const services = Object.fromEntries(
      cost?.services.map(({ title, total: of, earlier }) => [title, [of, earlier]]) ?? []
    );
    expect(services['Objects'], JSON.stringify(services)).to.deep.equal([42_000_000, 28_000_000]);
    expect(cost?.unbilledFrom).to.equal(null);
    expect(cost?.expected?.month, 'of the month that goes on').to.equal('May');
    const april = await summaryOf(server(), 'month', lastWhole('month', house.clock.now(), zone), zone);
    expect(april.cost?.expected, 'of one that is over').to.equal(null);
    expect(changed.map(({ text }) => text)).to.deep.equal(['Timetable of May']);
  });

  it('of a week that is not over say what it came to so far, against as much of the one before', async () => {
    const now = house.clock.now();
    const present = periodWith('week', dateAt(now, zone), zone);
    const { incidents } = await summaryOf(server(), 'week', present, zone);
    expect(incidents.total).to.equal(within({ from: present.from, to: now }).length);
    const part = { from: week.from, to: instant(week.from + (now - present.from)) };
    expect(incidents.earlier).to.equal(within(part).length);
  });

  it('become a PDF and CSV that say what they say, whatever people named their things', async () => {
    const summary = await summaryOf(server(), 'week', week, zone);
    const hostile = { ...summary, changed: [{ at: week.from, text: '=cmd|x Žluťoučký 船 "quoted"', service: null }] };
    const pdf = await summaryPdf('Wöche', hostile, drawDays(hostile));
    expect(pdf.subarray(0, 5).toString()).to.equal('%PDF-');
    expect(pdf.toString('latin1').match(/\/Type \/Page\b/g)?.length).to.be.greaterThan(0);
    const named = {
      ...summary,
      promises: [{ id: 1, name: '=1+1', targetPercent: 99, over: 'month', good: 1, left: 1, problem: '' }]
    };
    expect(
      summaryCsv(named)
        .split('\r\n')
        .find((line) => line.includes('1+1'))
    ).to.match(/^"?promises, good"?,'=1\+1,/);
    const [drawn, again] = [await server().summaries.pictures(summary), drawDays(summary)];
    expect(drawn.incidents?.subarray(1, 4).toString()).to.equal('PNG');
    expect(drawn.cost?.equals(again.cost as Buffer), 'in a thread as in this one').to.equal(true);
    expect((await server().summaries.pdf('Week', summary)).subarray(0, 5).toString()).to.equal('%PDF-');
  }).timeout(60_000);

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
    }).timeout(60_000);

    it('are sent by hand as well, which moves nothing; of one that was changed meanwhile nothing is sent', async () => {
      const channel = await confirmedChannel(house, 'owners@example.test');
      const made = await addPlan(server(), planned([channel], { name: 'Month', kind: 'month' }), 'Kaja');
      expect((await sendSummary(server(), made, null, 'Nerea'))?.channels).to.equal(1);
      expect(await planById(server().db, made.id)).to.deep.equal(made);
      const stale = { ...made, version: 9 };
      expect(await sendSummary(server(), stale, nextSending(made.plan, house.clock.now()), 'Bussola')).to.equal(null);
      const [newest] = await listSummaries(server().db, 1);
      expect([newest?.madeBy, newest?.name]).to.deep.equal(['Nerea', 'Month']);
    }).timeout(30_000);

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
    }).timeout(30_000);

    it('refuse channels that are not there, and what somebody else has changed', async () => {
      const channel = await confirmedChannel(house, 'crew@example.test');
      expect((await refusalOf(addPlan(server(), planned([channel, 9999]), 'Kaja')))?.path).to.deep.equal([
        'channels',
        1
      ]);
      const made = await addPlan(server(), planned([channel]), 'Kaja');
      await savePlan(server(), made.id, 1, planned([channel], { name: 'Other' }), 'Nerea');
      const late = await refusalOf(savePlan(server(), made.id, 1, made.plan, 'Kaja'));
      expect([late?.code, late?.message]).to.deep.equal(['changed-meanwhile', 'Nerea changed it meanwhile.']);
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
    }).timeout(30_000);
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
