import { expect } from 'chai';
import { DateTime } from 'luxon';
import { chanceOf } from '../../../../tests/support/chance';
import { day, hour, instant, instantFromText, type Instant } from '../time';
import { isSummaryDate, lastWhole, periodBefore, periodTitle, periodWith, type SummaryKind } from './period';
import { nextSending, periodSent, planWords, summaryPlanSchema } from './plan';

const zones = ['UTC', 'Europe/Rome', 'America/St_Johns', 'Australia/Lord_Howe', 'Pacific/Apia', 'Africa/Cairo'];
const kinds: readonly SummaryKind[] = ['week', 'month'];

/** The week or month that an instant is in, found by going from hour to hour. */
function slowPeriod(kind: SummaryKind, at: Instant, zone: string): { from: number; to: number } {
  const nameAt = (ms: number) => DateTime.fromMillis(ms, { zone }).toFormat(kind === 'week' ? 'kkkk-WW' : 'yyyy-LL');
  const edge = (direction: 1 | -1): number => {
    // From the nearest quarter of an hour on: no zone's midnight lies elsewhere.
    let ms = Math.floor(at / (hour / 4)) * (hour / 4);
    const name = nameAt(at);
    while (nameAt(ms) === name) ms += (direction * hour) / 4;
    return direction === 1 ? ms : ms + hour / 4;
  };
  return { from: edge(-1), to: edge(1) };
}

describe('periods of summaries', () => {
  it('are the weeks and months that clocks show, found as by going from hour to hour', function () {
    this.timeout(180_000);
    const random = chanceOf(16).unit;
    for (let round = 0; round < 60; round++) {
      const zone = zones[round % zones.length] as string;
      const kind = kinds[round % 2] as SummaryKind;
      const at = instant(Math.floor(instantFromText('2019-01-01T00:00:00Z') + random() * 3000 * day));
      const date = DateTime.fromMillis(at, { zone }).toFormat('yyyy-MM-dd');
      const { from, to } = periodWith(kind, date, zone);
      expect({ from, to }, `${kind} of ${date} in ${zone}`).to.deep.equal(slowPeriod(kind, at, zone));
      const earlier = periodBefore(kind, { from, to }, zone);
      expect(earlier.to, 'ends where it begins').to.equal(from);
      expect(lastWhole(kind, at, zone)).to.deep.equal(earlier);
    }
  });

  it('are an hour shorter or longer where clocks change', () => {
    const spring = periodWith('week', '2026-03-25', 'Europe/Rome');
    expect((spring.to - spring.from) / hour).to.equal(7 * 24 - 1);
    const autumn = periodWith('month', '2026-10-31', 'Europe/Rome');
    expect((autumn.to - autumn.from) / hour).to.equal(31 * 24 + 1);
  });

  it('are of dates from 2000 on', () => {
    const dates = [
      '2000-01-01',
      '1999-12-31',
      '0001-01-01',
      '2026-02-29',
      '2028-02-29',
      '2026-2-1',
      '',
      'x',
      '9999-12-31'
    ];
    expect(dates.filter(isSummaryDate)).to.deep.equal(['2000-01-01', '2028-02-29', '9999-12-31']);
  });

  it('are told as people say them', () => {
    const title = (kind: SummaryKind, date: string) => periodTitle(kind, periodWith(kind, date, 'UTC'), 'UTC');
    expect(title('week', '2026-04-29')).to.equal('27 April to 3 May 2026');
    expect(title('week', '2026-05-06')).to.equal('4 to 10 May 2026');
    expect(title('week', '2026-12-31')).to.equal('28 December 2026 to 3 January 2027');
    expect(title('month', '2026-02-11')).to.equal('February 2026');
  });
});

describe('when summaries are sent', () => {
  it('is the first time later than now at which a week or month has just ended', () => {
    const random = chanceOf(17).unit;
    for (let round = 0; round < 200; round++) {
      const zone = zones[round % zones.length] as string;
      const kind = kinds[round % 2] as SummaryKind;
      const at = `${String(Math.floor(random() * 24)).padStart(2, '0')}:${round % 3 === 0 ? '30' : '00'}`;
      const now = instant(Math.floor(instantFromText('2024-01-01T00:00:00Z') + random() * 1000 * day));
      const next = nextSending({ kind, at, zone }, now);
      expect(next).to.be.greaterThan(now);
      const local = DateTime.fromMillis(next, { zone });
      expect(kind === 'week' ? local.weekday : local.day, `${kind} ${at} ${zone} after ${now}`).to.equal(1);
      // On a day whose clocks skip the time it is later, never another day.
      expect(local.toFormat('HH:mm') >= at).to.equal(true);
      expect(next - now).to.be.lessThan((kind === 'week' ? 7 : 31) * day + 2 * hour);
      expect(periodSent({ kind, zone }, next).to).to.be.at.most(next);
      expect(next - periodSent({ kind, zone }, next).to).to.be.lessThan(day + 2 * hour);
      expect(nextSending({ kind, at, zone }, instant(next - 1))).to.equal(next);
    }
  });

  it('is said in words, and read strictly', () => {
    const plan = { name: 'Week', kind: 'week', at: '08:00', zone: 'Europe/Rome', channels: [4] };
    expect(planWords(summaryPlanSchema.parse(plan))).to.equal('each Monday at 08:00 (Europe/Rome)');
    for (const [wrong, path] of [
      [{ name: ' ' }, 'name'],
      [{ at: '8:00' }, 'at'],
      [{ at: '24:00' }, 'at'],
      [{ zone: 'Rome' }, 'zone'],
      [{ channels: [] }, 'channels'],
      [{ channels: [4, 4] }, 'channels'],
      [{ kind: 'year' }, 'kind']
    ] as const)
      expect(summaryPlanSchema.safeParse({ ...plan, ...wrong }).error?.issues[0]?.path[0]).to.equal(path);
    expect(summaryPlanSchema.safeParse({ ...plan, extra: 1 }).success).to.equal(false);
  });
});
