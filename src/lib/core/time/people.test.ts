import { expect } from 'chai';
import {
  dateLocales,
  day,
  duration,
  exactMoment,
  fullMoment,
  hour,
  isDateLocale,
  instantFromText,
  minute,
  peopleDuration,
  peopleMoment,
  spokenDuration,
  times,
  type DateLocale
} from './index';

const at = (text: string) => instantFromText(text);

describe('times as people write them', () => {
  const now = at('2026-05-04T14:17:00Z');

  it('today is a clock time, this week a weekday, before that a date', () => {
    expect(peopleMoment(at('2026-05-04T08:05:00Z'), now, 'UTC')).to.equal('08:05');
    expect(peopleMoment(at('2026-05-02T08:05:00Z'), now, 'UTC')).to.equal('Sat 08:05');
    expect(peopleMoment(at('2026-04-02T08:05:00Z'), now, 'UTC')).to.equal('2 Apr 08:05');
    expect(peopleMoment(at('2025-04-02T08:05:00Z'), now, 'UTC')).to.equal('2 Apr 2025 08:05');
  });

  it('are in the language of whoever reads them, in their zone', () => {
    const moments = ['2026-05-04T12:05:00Z', '2026-05-02T12:05:00Z', '2026-04-02T12:05:00Z', '2025-04-02T12:05:00Z'];
    const read = (locale: DateLocale) => [
      ...moments.map((moment) => peopleMoment(at(moment), now, { zone: 'Europe/Rome', locale })),
      fullMoment(at('2026-05-04T12:05:07Z'), { zone: 'Europe/Rome', locale })
    ];
    expect(read('en')).to.deep.equal([
      ...['14:05', 'Sat 14:05', '2 Apr 14:05', '2 Apr 2025 14:05', '2026-05-04 14:05:07 +02:00']
    ]);
    // Narrow spaces before AM and PM are the language's own.
    expect(read('en-US').map((text) => text.replaceAll('\u202f', ' '))).to.deep.equal([
      ...['2:05 PM', 'Sat 2:05 PM', 'Apr 2, 2:05 PM', 'Apr 2, 2025, 2:05 PM', 'May 4, 2026, 2:05:07 PM +02:00']
    ]);
    expect(read('de')).to.deep.equal([
      ...['14:05', 'Sa., 14:05', '2. Apr., 14:05', '2. Apr. 2025, 14:05', '4. Mai 2026, 14:05:07 +02:00']
    ]);
    expect(read('sv')).to.deep.equal([
      ...['14:05', 'lör 14:05', '2 apr. 14:05', '2 apr. 2025 14:05', '4 maj 2026 14:05:07 +02:00']
    ]);
  });

  it('are today by the day of the reader’s zone, and tell the two 02:30 of a day of changed clocks apart', () => {
    const lateEvening = at('2026-05-03T23:30:00Z');
    const dates = { zone: 'Europe/Rome', locale: 'fr' } as const;
    expect(peopleMoment(lateEvening, now, dates), 'it was past midnight in Rome').to.equal('01:30');
    expect(peopleMoment(lateEvening, now, { ...dates, zone: 'UTC' })).to.equal('dim. 23:30');
    const twice = ['2026-10-25T00:30:00Z', '2026-10-25T01:30:00Z'].map((text) => fullMoment(at(text), dates));
    expect(twice).to.deep.equal(['25 oct. 2026, 02:30:00 +02:00', '25 oct. 2026, 02:30:00 +01:00']);
  });

  it('every language says another moment otherwise, and each is one of those that can be chosen', () => {
    for (const locale of Object.keys(dateLocales)) {
      expect(isDateLocale(locale)).to.equal(true);
      const dates = { zone: 'UTC', locale: locale as DateLocale };
      const year = Array.from({ length: 366 }, (_, index) =>
        fullMoment(at(new Date(index * day).toISOString()), dates)
      );
      expect(new Set(year).size).to.equal(366);
    }
    for (const other of ['', 'xx', 'toString', 'EN']) expect(isDateLocale(other)).to.equal(false);
  });

  it('the same wall time twice on the day clocks go back is told apart by its offset', () => {
    const first = at('2026-10-25T00:30:00Z');
    const second = at('2026-10-25T01:30:00Z');
    expect(exactMoment(first, 'Europe/Berlin')).to.equal('2026-10-25 02:30:00 +02:00');
    expect(exactMoment(second, 'Europe/Berlin')).to.equal('2026-10-25 02:30:00 +01:00');
  });

  it('lengths have at most two units', () => {
    expect([0, 999, 59_000, 90_000, 5_400_000, 90_061_000].map((ms) => peopleDuration(duration(ms)))).to.deep.equal([
      '0 s',
      '0 s',
      '59 s',
      '1 min 30 s',
      '1 h 30 min',
      '1 d 1 h'
    ]);
    expect([minute, times(3, hour), times(14, day), duration(90_000)].map(spokenDuration)).to.deep.equal([
      '1 minute',
      '3 hours',
      '14 days',
      '90 seconds'
    ]);
  });
});
