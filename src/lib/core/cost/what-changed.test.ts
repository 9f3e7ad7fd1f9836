import { expect } from 'chai';
import { chanceOf } from '../../../../tests/support/chance';
import { dateOf, dayOf, type DayNumber } from './bill';
import type { ReportedItem } from './cost-report';
import { idleSince } from './idle';
import { monthAfter, monthAt, monthOf } from './month';
import { Rates } from './rates';
import { whatChanged, type ChangeQuery, type DayOfAccount } from './what-changed';

const from = dayOf('2026-09-20');
const days = 60;
const item = (resourceName: string, more: Partial<ReportedItem> = {}): ReportedItem => ({
  ...{ resource: resourceName, resourceName, resourceType: 'object-store', region: 'perla', service: 'objects' },
  ...{ usage: 'stored bytes', unit: 'GB', category: 'usage', currency: 'EUR', labels: {}, account: 'one' },
  ...more
});
const items = [
  item('manifest-archive'),
  item('fare-tables'),
  item('new-store'),
  item('plan', { category: 'purchase' })
];

/** What each costs on a day, in euro: one doubles at day 54, one never does, one appears at day 50, one is bought once. */
function costsOn(day: number): object {
  const { normal } = chanceOf(day + 5);
  return {
    0: (day >= 54 ? 174 : 88) + 2 * normal(),
    1: 40 + 3 * normal(),
    ...(day >= 50 && { 2: 12 }),
    ...(day === 20 && { 3: 900 })
  };
}
const sheets = Array.from({ length: days }, (_, day): DayOfAccount => {
  const costs = Object.entries(costsOn(day)) as [string, number][];
  const billed = Float64Array.from(costs.map(([, cost]) => Math.round(cost * 1_000_000)));
  return {
    ...{ account: 'one', day: (from + day) as DayNumber, items: Int32Array.from(costs.map(([one]) => Number(one))) },
    ...{ billed, amortised: billed }
  };
});
const asked: ChangeQuery = {
  ...{ from, to: (from + days) as DayNumber, since: from, basis: 'billed', least: 1, most: 100 }
};
const find = (more: Partial<ChangeQuery> = {}) =>
  whatChanged({ ...asked, ...more }, items, sheets, new Rates('EUR', []));

describe('what changed of costs', () => {
  it('is what doubled, with its day, and what appeared; not what stays, nor what is bought once', () => {
    const { changes } = find();
    expect(changes.map(({ item: of, day }) => [items[of]?.resourceName, dateOf(day)])).to.deep.equal([
      ['manifest-archive', dateOf((from + 54) as DayNumber)],
      ['new-store', dateOf((from + 50) as DayNumber)]
    ]);
    expect(changes[0]?.before).to.be.closeTo(88, 2);
    expect(changes[0]?.after).to.be.closeTo(174, 2);
    expect(changes[1]).to.deep.include({ before: 0, after: 12 });
  });

  it('leaves out what is smaller than asked for, or earlier, and says how many were looked at', () => {
    expect(find({ least: 20 }).changes).to.have.length(1);
    expect(find({ since: (from + 52) as DayNumber }).changes).to.have.length(1);
    expect(find({ most: 1 })).to.deep.include({ items: 3, lookedAt: 1 });
  });
});

describe('what does nothing', () => {
  it('does so since the first of its newest cells that are all below a limit', () => {
    const found = [[40, 1, NaN, 1.2], [1, 1], [1, 40], [], [NaN], [40, NaN]].map((cells) => idleSince(cells, 2));
    expect(found).to.deep.equal([1, 0, null, null, null, null]);
  });
});

describe('months', () => {
  it('have their days, also in leap years and over the turn of the year', () => {
    const length = (name: string) => monthOf(name).to - monthOf(name).from;
    expect(['2026-02', '2028-02', '2026-12'].map(length)).to.deep.equal([28, 29, 31]);
    expect(monthAfter(monthOf('2026-12'), 1).name).to.equal('2027-01');
    expect(monthAfter(monthOf('2026-01'), -13).name).to.equal('2024-12');
    expect(monthAt(dayOf('2026-11-30')).name).to.equal('2026-11');
    for (const name of ['2026-13', '2026-1', '', 'November', '0000-05', '1969-12', '9999-01'])
      expect(() => monthOf(name)).to.throw(RangeError, 'is not a month');
  });
});
