import { expect } from 'chai';
import { connect, withHouse } from '../../../../tests/support/bussola';
import { chanceOf } from '../../../../tests/support/chance';
import { storeIncident } from '../../../../tests/support/incidents';
import { severities, type Severity } from '../../core/alarm';
import { dayOf, micros, type BillEntry, type DayNumber } from '../../core/cost';
import { lastWhole, periodBefore, periodWith, summarySentences } from '../../core/summary';
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
import { insertMark } from '../marks/marks';
import { summaryOf } from './collect';
import { drawDays } from './drawn/draw-days';
import { summaryDocument, summaryPdf } from './drawn/summary-pdf';
import { summaryCsv } from './summary-csv';

/** All that a document writes, each paragraph and cell by itself. */
function textsOf(of: unknown): string[] {
  if (Array.isArray(of)) return of.flatMap(textsOf);
  if (typeof of !== 'object' || of === null) return [];
  const { text, ...rest } = of as { text?: unknown };
  const own = Array.isArray(text) ? [text.map((run: { text: string }) => run.text).join('')] : [];
  return [...own, ...Object.values(rest).flatMap(textsOf)];
}

const zone = 'Europe/Rome';
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
    this.timeout(180_000);
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
    expect(pdf.toString('latin1').match(/\/Type \/Page\b/g)?.length).to.be.within(2, 4);
    const written = textsOf(summaryDocument('Wöche', hostile, drawDays(hostile)));
    expect(written[0]).to.match(/^Wöche: \d+ .* 2026$/);
    for (const said of [...summarySentences(hostile), ...hostile.services.map(({ title }) => title)])
      expect(written, 'as the page says it').to.include(said);
    expect(written, 'a letter that our font has no shape for').to.include('=cmd|x Žluťoučký ? "quoted"');
    const named = {
      ...summary,
      promises: [{ id: 1, name: '=1+1', targetPercent: 99, over: 'month', good: 1, left: 1, problem: '' }]
    };
    expect(
      summaryCsv(named)
        .split('\r\n')
        .find((line) => line.includes('1+1'))
    ).to.match(/^"?promises, good"?,'=1\+1,/);
    const [drawn, again] = [await server().summaries.draw('Week', summary), drawDays(summary)];
    expect(drawn.incidents?.subarray(1, 4).toString()).to.equal('PNG');
    expect(drawn.cost?.equals(again.cost as Buffer), 'in a thread as in this one').to.equal(true);
    expect(drawn.pdf.subarray(0, 5).toString()).to.equal('%PDF-');
    const one = { id: 7, name: 'Week', summary };
    const [first, second] = await Promise.all([1, 2].map(() => server().summaries.drawStored(one)));
    expect(second, 'of one that is stored, once for all').to.equal(first);
  }).timeout(180_000);
});
