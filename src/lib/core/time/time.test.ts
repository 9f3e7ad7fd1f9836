import { expect } from 'chai';
import fc from 'fast-check';
import {
  after,
  before,
  cellAt,
  cellsUntil,
  cellStart,
  earlier,
  day,
  duration,
  durationFromText,
  fixedRange,
  gridEnd,
  gridOver,
  hour,
  inRange,
  instant,
  instantFromText,
  liveRange,
  longer,
  minute,
  mostCells,
  overlap,
  range,
  resolveRange,
  shortestStep,
  isShownLength,
  saysRange,
  shownRangeFrom,
  usualOf,
  shownRangeSearch,
  stepRange,
  textFromDuration,
  textFromInstant,
  times,
  usualRange,
  type Instant
} from './index';

const at = (text: string) => instantFromText(text);

describe('instants and durations', () => {
  it('an instant is whole milliseconds within the years that databases know', () => {
    for (const bad of [-1, 0.5, NaN, Infinity, 253_402_300_800_000])
      expect(() => instant(bad)).to.throw(RangeError, String(bad));
    expect(textFromInstant(instant(253_402_300_799_999))).to.equal('9999-12-31T23:59:59.999Z');
  });

  it('a text without a zone is refused', () => {
    expect(at('2026-05-04T08:00:00Z')).to.equal(1777881600000);
    expect(at('2026-05-04T10:00:00+02:00')).to.equal(1777881600000);
    for (const bad of ['2026-05-04', '2026-05-04T08:00:00', 'yesterday', '2026-13-04T08:00:00Z'])
      expect(() => at(bad), bad).to.throw(RangeError, bad);
  });

  it('ISO 8601 durations come back as they were written', () => {
    for (const text of ['PT15S', 'PT1M', 'PT90M', 'PT3H', 'P14D'])
      expect(textFromDuration(durationFromText(text))).to.equal(text);
    for (const bad of ['P1M', 'P1Y', 'PT0S', '3h', '', '-PT1H'])
      expect(() => durationFromText(bad), bad).to.throw(RangeError);
  });

  it('going back before the epoch ends at the epoch', () => {
    expect(before(instant(5), minute)).to.equal(0);
  });
});

describe('ranges', () => {
  it('hold their start and not their end', () => {
    const r = range(instant(10), instant(20));
    expect([inRange(r, instant(10)), inRange(r, instant(19)), inRange(r, instant(20))]).to.deep.equal([
      true,
      true,
      false
    ]);
    expect(() => range(instant(2), instant(1))).to.throw(RangeError);
  });

  it('overlap exactly where both hold an instant', () => {
    const small = fc.nat(30).map((n) => n as Instant);
    fc.assert(
      fc.property(small, small, small, small, (a, b, c, d) => {
        const one = range(Math.min(a, b) as Instant, Math.max(a, b) as Instant);
        const two = range(Math.min(c, d) as Instant, Math.max(c, d) as Instant);
        const shared = overlap(one, two);
        for (let i = 0; i <= 30; i++)
          expect(inRange(one, i as Instant) && inRange(two, i as Instant)).to.equal(
            shared !== null && inRange(shared, i as Instant)
          );
      })
    );
  });
});

describe('grids', () => {
  it('cover the range with the fewest cells anchored to the epoch', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 10 ** 9 }),
        fc.integer({ min: 0, max: 10 ** 6 }),
        fc.integer({ min: 1, max: 3_600_000 }),
        (from, length, step) => {
          fc.pre(length / step < mostCells - 1);
          const grid = gridOver({ from: from as Instant, to: (from + length) as Instant }, duration(step));
          expect(grid.start % step).to.equal(0);
          if (length === 0) {
            expect(grid.count).to.equal(0);
            return;
          }
          expect(grid.start).to.be.at.most(from);
          expect(cellStart(grid, 1)).to.be.above(from);
          expect(gridEnd(grid)).to.be.at.least(from + length);
          expect(cellStart(grid, grid.count - 1)).to.be.below(from + length);
        }
      )
    );
  });

  it('of days and weeks follow the calendar of a zone, and a day of changed clocks is one cell', () => {
    const zones = ['UTC', 'Europe/Berlin', 'America/Sao_Paulo', 'Asia/Kolkata', 'Pacific/Chatham', 'Africa/Cairo'];
    const from = fc.integer({ min: Date.parse('2009-01-01Z'), max: Date.parse('2030-01-01Z') });
    fc.assert(
      fc.property(from, fc.integer({ min: 1, max: 40 }), fc.constantFrom(...zones), (begin, days, zone) => {
        const span = { from: instant(begin), to: instant(begin + days * day) };
        const grid = gridOver(span, day, zone);
        const dateOf = new Intl.DateTimeFormat('sv', { timeZone: zone, dateStyle: 'short' });
        const dates = Array.from({ length: grid.count }, (_, cell) => dateOf.format(cellStart(grid, cell)));
        expect(new Set(dates).size).to.equal(grid.count);
        for (let cell = 0; cell < grid.count; cell++) {
          expect(dateOf.format(cellStart(grid, cell + 1) - 1)).to.equal(dates[cell]);
          expect(dateOf.format(cellStart(grid, cell) - 1)).not.to.equal(dates[cell]);
          expect(cellAt(grid, cellStart(grid, cell + 1) - 1)).to.equal(cell);
        }
        expect(cellAt(grid, begin)).to.equal(0);
        expect(gridEnd(grid)).to.be.at.least(span.to);
        expect(cellStart(grid, grid.count - 1)).to.be.below(span.to);
      })
    );
    const hours = (text: string) => {
      const at = instantFromText(text);
      const grid = gridOver({ from: at, to: after(at, minute) }, day, 'Europe/Berlin');
      return (gridEnd(grid) - grid.start) / hour;
    };
    expect(['2026-03-29', '2026-06-01', '2026-10-25'].map((date) => hours(`${date}T12:00:00Z`))).to.deep.equal([
      23, 24, 25
    ]);
    const week = gridOver(
      { from: instantFromText('2026-03-26T12:00:00Z'), to: instantFromText('2026-03-30T12:00:00Z') },
      times(7, day),
      'Europe/Berlin'
    );
    expect(week.calendar?.edges.map((edge) => new Date(edge).toISOString())).to.deep.equal([
      '2026-03-22T23:00:00.000Z',
      '2026-03-29T22:00:00.000Z',
      '2026-04-05T22:00:00.000Z'
    ]);
  });

  it('of no range have no cells, and none lies before 1970, whatever the zone', () => {
    const at = instantFromText('2026-05-04T12:00:00Z');
    const none = gridOver({ from: at, to: at }, day, 'Europe/Berlin');
    expect([none.count, gridEnd(none)]).to.deep.equal([0, none.start]);
    const first = gridOver({ from: instant(0), to: instant(2 * day) }, day, 'America/New_York');
    expect([first.start, cellStart(first, 1)]).to.deep.equal([0, 5 * hour]);
    const before1970 = earlier(first, times(9, day));
    expect([before1970.start, gridEnd(before1970), before1970.count]).to.deep.equal([0, 0, first.count]);
    expect(longer(first, 3).count).to.equal(first.count + 3);
  });

  it('begin earlier by days of the calendar, and have more cells before them', () => {
    const at = instantFromText('2026-03-30T12:00:00Z');
    const monday = gridOver({ from: at, to: after(at, minute) }, day, 'Europe/Berlin');
    const text = (instants: readonly number[]) => instants.map((one) => new Date(one).toISOString().slice(0, 13));
    expect(text(earlier(monday, day).calendar?.edges ?? [])).to.deep.equal(['2026-03-28T23', '2026-03-29T22']);
    expect(text(longer(monday, 2).calendar?.edges ?? [])).to.deep.equal([
      '2026-03-27T23',
      '2026-03-28T23',
      '2026-03-29T22',
      '2026-03-30T22'
    ]);
    expect([cellsUntil(monday, monday.start), cellsUntil(monday, gridEnd(monday))]).to.deep.equal([0, 1]);
  });

  it('refuse a size that would decide an allocation, and name the shortest step', () => {
    const year = { from: instant(0), to: instant(365 * day) };
    expect(() => gridOver(year, duration(1000))).to.throw(RangeError, /shortest step is 300000 ms/);
    expect(() => gridOver(year, duration(0))).to.throw(RangeError, 'step');
    expect(shortestStep({ from: instant(0), to: instant(times(3, hour)) }, 360)).to.equal(30_000);
  });
});

describe('the shown range', () => {
  it('is what a board opens with where the address says nothing', () => {
    expect(shownRangeFrom(new URLSearchParams(''), usualOf('P3D'))).to.deep.equal(usualOf('P3D'));
    expect(shownRangeFrom(new URLSearchParams('range=PT6H'), usualOf('P3D'))).to.deep.equal(usualOf('PT6H'));
    expect(usualOf(undefined)).to.deep.equal(usualRange);
    expect(
      ['from=2026-05-04T00:00:00Z', 'range=PT1H', 'from=a&to=b', ''].map((text) => saysRange(new URLSearchParams(text)))
    ).to.deep.equal([false, true, true, false]);
    expect(['PT1M', 'P400D', 'PT59S', 'P401D', 'three hours', ''].map(isShownLength)).to.deep.equal([
      true,
      true,
      false,
      false,
      false,
      false
    ]);
  });

  const now = at('2026-05-04T14:00:00Z');

  it('comes back from an address as it went in', () => {
    for (const shown of [liveRange(times(6, hour)), fixedRange(at('2026-05-04T08:00:00Z'), at('2026-05-04T10:00:00Z'))])
      expect(shownRangeFrom(new URLSearchParams(shownRangeSearch(shown)))).to.deep.equal(shown);
  });

  it('is the usual one when the address says nothing or nonsense', () => {
    for (const search of [
      '',
      'range=',
      'range=P400000D',
      'from=x&to=y',
      'from=2026-05-04T08:00:00Z&to=2026-05-04T07:00:00Z'
    ])
      expect(shownRangeFrom(new URLSearchParams(search)), search).to.deep.equal(usualRange);
  });

  it('steps half its length and never past now', () => {
    const back = stepRange(liveRange(times(2, hour)), -1, now);
    expect(resolveRange(back, now)).to.deep.equal({ from: at('2026-05-04T11:00:00Z'), to: at('2026-05-04T13:00:00Z') });
    expect(resolveRange(stepRange(liveRange(times(2, hour)), 1, now), now).to).to.equal(now);
  });
});
