import { expect } from 'chai';
import fc from 'fast-check';
import { DateTime } from 'luxon';
import { instant, range, timeTicks } from '.';

const at = (text: string, zone = 'UTC') => instant(DateTime.fromISO(text, { zone }).toMillis());
const names = (from: string, to: string, most: number, zone = 'UTC') =>
  timeTicks(range(at(from, zone), at(to, zone)), zone, most).map(({ text }) => text);

describe('ticks of a time axis', () => {
  it('stand on round times, however the range lies', () => {
    expect(names('2026-05-04T06:10', '2026-05-04T09:10', 6)).to.deep.equal([
      '06:30',
      '07:00',
      '07:30',
      '08:00',
      '08:30',
      '09:00'
    ]);
    expect(names('2026-05-04T19:07', '2026-05-04T19:41', 5)).to.deep.equal(['19:10', '19:20', '19:30', '19:40']);
    expect(names('2026-05-03T20:00', '2026-05-04T20:00', 8)).to.deep.equal([
      '21:00',
      'Mon 4',
      '03:00',
      '06:00',
      '09:00',
      '12:00',
      '15:00',
      '18:00'
    ]);
    expect(names('2026-05-04T10:00:03', '2026-05-04T10:00:21', 4)).to.deep.equal([
      '10:00:05',
      '10:00:10',
      '10:00:15',
      '10:00:20'
    ]);
  });

  it('are of the calendar for days and more, at the same places however the axis is moved', () => {
    expect(names('2026-05-01', '2026-05-08', 7)).to.deep.equal([
      'Fri 1',
      'Sat 2',
      'Sun 3',
      'Mon 4',
      'Tue 5',
      'Wed 6',
      'Thu 7',
      'Fri 8'
    ]);
    expect(names('2026-04-20', '2026-06-01', 6)).to.deep.equal([
      '20 Apr',
      '27 Apr',
      '4 May',
      '11 May',
      '18 May',
      '25 May',
      '1 Jun'
    ]);
    expect(names('2025-11-15', '2026-05-15', 7)).to.deep.equal(['Dec', '2026', 'Feb', 'Mar', 'Apr', 'May']);
    expect(names('2016-02-01', '2026-02-01', 4)).to.deep.equal(['2019', '2022', '2025']);
  });

  it('follow the clock of the zone on days that have 23 and 25 hours', () => {
    const zone = 'Europe/Berlin';
    expect(names('2026-03-29T00:00', '2026-03-29T12:00', 12, zone)).to.deep.equal([
      'Sun 29',
      '01:00',
      '03:00',
      '04:00',
      '05:00',
      '06:00',
      '07:00',
      '08:00',
      '09:00',
      '10:00',
      '11:00',
      '12:00'
    ]);
    const autumn = timeTicks(range(at('2026-10-25T00:00', zone), at('2026-10-25T12:00', zone)), zone, 14);
    expect(autumn.map(({ text }) => text)).to.deep.equal([
      'Sun 25',
      ...[1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12].map((hour) => `${String(hour).padStart(2, '0')}:00`)
    ]);
  });

  it('are round, in order, within the range, and as far apart as there must be room, in every zone', () => {
    const zones = ['UTC', 'Europe/Berlin', 'America/St_Johns', 'Asia/Kathmandu', 'Australia/Lord_Howe', 'Pacific/Apia'];
    fc.assert(
      fc.property(
        fc.integer({ min: at('2020-01-01'), max: at('2030-01-01') }),
        fc.double({ min: Math.log(20_000), max: Math.log(20 * 365 * 86_400_000), noNaN: true }),
        fc.integer({ min: 1, max: 30 }),
        fc.constantFrom(...zones),
        (from, log, most, zone) => {
          const to = from + Math.round(Math.exp(log));
          const ticks = timeTicks(range(instant(from), instant(to)), zone, most);
          expect(ticks.length, 'room').to.be.at.most(most + 1);
          for (const [index, tick] of ticks.entries()) {
            expect(tick.at).to.be.within(from, to);
            const before = ticks[index - 1];
            if (before) expect(tick.at - before.at).to.be.at.least((to - from) / most);
            const local = DateTime.fromMillis(tick.at, { zone });
            expect(local.millisecond).to.equal(0);
            if (/^\d\d:\d\d$/.test(tick.text)) expect(local.toFormat('HH:mm')).to.equal(tick.text);
            if (!/:/.test(tick.text)) expect(local.toMillis()).to.equal(local.startOf('day').toMillis());
          }
        }
      ),
      { numRuns: 40 }
    );
  });
});
