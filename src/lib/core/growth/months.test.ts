import { expect } from 'chai';
import { dateAfter, firstInstantAt, type Instant } from '../time';
import { monthsOf } from './index';

describe('months beside those of a year before', () => {
  const zone = 'Europe/Rome';
  const daysFrom = (date: string, count: number): Instant[] =>
    Array.from({ length: count }, (_, index) => firstInstantAt(dateAfter(date, index), '00:00', zone));

  it('are means of their days by the clocks of a zone, gaps left out', () => {
    const starts = daysFrom('2025-10-01', 430);
    const values = starts.map((_, index) => (index < 31 ? 10 : index === 40 ? NaN : 20 + (index >= 365 ? 5 : 0)));
    const months = monthsOf(starts, values, zone);
    expect(months[0]).to.deep.equal({ month: '2025-10', mean: 10, days: 31, yearBefore: null });
    expect(months[1]).to.deep.equal({ month: '2025-11', mean: 20, days: 29, yearBefore: null });
    expect(months.find(({ month }) => month === '2026-10')).to.deep.equal({
      ...{ month: '2026-10', mean: 25, days: 31, yearBefore: 10 }
    });
    expect(months.map(({ month }) => month)).to.deep.equal(months.map(({ month }) => month).toSorted());
  });

  it('without a value are left out, also as what another is beside', () => {
    const starts = daysFrom('2026-01-01', 90);
    const months = monthsOf(
      starts,
      starts.map((_, index) => (index < 59 && index > 30 ? NaN : 1)),
      zone
    );
    expect(months.map(({ month, days }) => [month, days])).to.deep.equal([
      ['2026-01', 31],
      ['2026-03', 31]
    ]);
    expect(monthsOf([], [], zone)).to.deep.equal([]);
  });
});
