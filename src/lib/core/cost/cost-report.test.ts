import { expect } from 'chai';
import fc from 'fast-check';
import { dateOf, dayOf, type CostItem, type DayNumber } from './bill';
import { costReport, dimensionOf, type CostDimension, type ReportedDay, type ReportedItem } from './cost-report';
import { decodeDay, decodeQuantities, encodeDay, encodeQuantities } from './day-sheet';
import { Rates } from './rates';

const from = dayOf('2026-11-01');
const rates = new Rates('EUR', [
  { currency: 'CHF', from: '2026-11-01', rate: 1.05 },
  { currency: 'CHF', from: '2026-11-03', rate: 1.1 }
]);

const item = (more: Partial<ReportedItem> = {}): ReportedItem => ({
  ...{ resource: 'm-1', resourceName: 'berth-1', resourceType: 'machine', region: 'perla', service: 'machines' },
  ...{ usage: 'machine hours', unit: 'h', category: 'usage', currency: 'EUR', labels: {}, account: 'one' },
  ...more
});
const sheet = (day: number, amounts: Record<number, number>): ReportedDay => {
  const billed = Float64Array.from(Object.values(amounts));
  return {
    day: (from + day) as DayNumber,
    items: Int32Array.from(Object.keys(amounts).map(Number)),
    billed,
    amortised: billed
  };
};
const asked = { from, to: (from + 4) as DayNumber, basis: 'billed', filters: [], most: 10 } as const;

describe('a day of costs as bytes', () => {
  const days = fc.uniqueArray(fc.integer({ min: 0, max: 2_000_000 }), { maxLength: 300 }).chain((numbers) =>
    fc.record({
      items: fc.constant(Int32Array.from(numbers.sort((a, b) => a - b))),
      billed: fc.array(fc.integer({ min: -4e15, max: 4e15 }), { minLength: numbers.length, maxLength: numbers.length }),
      isSame: fc.boolean()
    })
  );

  it('is read back as it was', () => {
    fc.assert(
      fc.property(days, ({ items, billed, isSame }) => {
        const amounts = Float64Array.from(billed);
        const amortised = isSame ? amounts : amounts.map((one) => Math.round(one / 3) + 0);
        const read = decodeDay(encodeDay({ items, billed: amounts, amortised }));
        expect(read.items).to.deep.equal(items);
        expect(read.billed).to.deep.equal(amounts);
        expect(read.amortised).to.deep.equal(amortised);
        expect(decodeQuantities(encodeQuantities(amounts), items.length)).to.deep.equal(amounts);
      })
    );
  });

  it('is refused where an amount is too large to be exact', () => {
    for (const amount of [2 ** 52 + 1, -(2 ** 52) - 1, 0.5])
      expect(() => encodeDay(sheet(0, { 3: amount })), `${amount}`).to.throw(RangeError, 'an amount of');
  });

  it('is refused where it is damaged, whatever byte is cut off', () => {
    const bytes = encodeDay({ ...sheet(0, { 3: 500_000, 9: -70_000_000 }) });
    for (let length = 0; length < bytes.length; length++)
      expect(() => decodeDay(bytes.subarray(0, length)), `${length}`).to.throw(RangeError);
    expect(() =>
      encodeDay({ items: Int32Array.of(2, 2), billed: new Float64Array(2), amortised: new Float64Array(2) })
    ).to.throw('item 2 after 2');
  });
});

describe('a report of costs', () => {
  it('adds up by anything, with the rate of each day, largest first', () => {
    const items = [item(), item({ service: 'databases', currency: 'CHF' })];
    const found = costReport(
      { ...asked, by: 'service' },
      items,
      [sheet(1, { 0: 5_000_000, 1: 10_000_000 }), sheet(2, { 1: 10_000_000 })],
      rates
    );
    expect(found.groups.map(({ value, total }) => [value, total])).to.deep.equal([
      ['databases', 21_500_000],
      ['machines', 5_000_000]
    ]);
    expect(found.total).to.equal(26_500_000);
    expect([...found.days]).to.deep.equal([NaN, 15_500_000, 11_000_000, NaN]);
    expect(found.others).to.deep.equal({ count: 0, total: 0 });
  });

  it('says what has no rate, and leaves it out', () => {
    const items = [item(), item({ currency: 'NOK' })];
    const found = costReport({ ...asked, by: 'account' }, items, [sheet(0, { 0: 1_000_000, 1: 7_000_000 })], rates);
    expect([found.total, found.unrated]).to.deep.equal([1_000_000, { NOK: 7_000_000 }]);
  });

  it('keeps apart resources of one name in two accounts, and what is of no resource', () => {
    const items = [item(), item({ account: 'two' }), item({ resource: null, resourceName: '', usage: 'support' })];
    const found = costReport({ ...asked, by: 'resource', most: 2 }, items, [sheet(0, { 0: 3, 1: 2, 2: 9 })], rates);
    expect(found.groups.map(({ value, title, total }) => [value, title, total])).to.deep.equal([
      ['', '', 9],
      ['one\nm-1', 'berth-1', 3]
    ]);
    expect(found.others).to.deep.equal({ count: 1, total: 2 });
  });

  const dimensions: CostDimension[] = ['account', 'region', 'service', 'usage', 'category', 'resource', 'label:team'];
  const anyItem: fc.Arbitrary<ReportedItem> = fc
    .record({
      account: fc.constantFrom('one', 'two'),
      region: fc.constantFrom('', 'perla'),
      service: fc.constantFrom('machines', 'databases'),
      usage: fc.constantFrom('hours', 'bytes'),
      resource: fc.constantFrom(null, 'a', 'b', 'c'),
      currency: fc.constantFrom('EUR', 'CHF', 'NOK'),
      category: fc.constantFrom<CostItem['category']>('usage', 'purchase'),
      labels: fc.constantFrom<Record<string, string>>({}, { team: 'Data' }, { team: '' })
    })
    .map((more) => item({ ...more, resourceName: more.resource ?? '' }));

  it('equals adding up one entry after the other', () => {
    const worlds = fc.record({
      items: fc.array(anyItem, { minLength: 1, maxLength: 12 }),
      cells: fc.array(
        fc.tuple(fc.integer({ min: -1, max: 5 }), fc.integer({ min: 0, max: 11 }), fc.integer({ min: -9e9, max: 9e9 })),
        { maxLength: 60 }
      ),
      by: fc.constantFrom(...dimensions),
      filter: fc.option(
        fc.tuple(
          fc.constantFrom(...dimensions),
          fc.subarray(['', 'one', 'perla', 'machines', 'Data', 'usage', 'one\na'])
        )
      ),
      most: fc.integer({ min: 0, max: 5 })
    });
    fc.assert(
      fc.property(worlds, ({ items, cells, by, filter, most }) => {
        const filters = filter === null ? [] : [{ by: filter[0], values: filter[1] }];
        const sheets = cells
          .filter(([, number]) => number < items.length)
          .map(([day, number, amount]) => sheet(day, { [number]: amount }));
        const found = costReport({ ...asked, by, filters, most }, items, sheets, rates);
        // Sums of a group, currency and day, each then turned into one's own currency.
        const sums = new Map<string, number>();
        for (const {
          day,
          items: [number],
          billed: [amount]
        } of sheets) {
          const of = items[number as number] as ReportedItem;
          if (day < from || day >= from + 4 || !filters.every((one) => one.values.includes(dimensionOf(of, one.by))))
            continue;
          const key = JSON.stringify([dimensionOf(of, by), of.currency, day]);
          sums.set(key, (sums.get(key) ?? 0) + (amount as number));
        }
        const totals = new Map<string, number>();
        const unrated = new Map<string, number>();
        for (const [key, sum] of sums) {
          const [value, currency, day] = JSON.parse(key) as [string, string, DayNumber];
          const rate = rates.rateAt(currency, dateOf(day));
          if (rate === null) unrated.set(currency, (unrated.get(currency) ?? 0) + sum);
          else totals.set(value, (totals.get(value) ?? 0) + Math.sign(sum) * Math.round(Math.abs(sum) * rate));
        }
        const all = [...totals.values()].sort((a, b) => b - a);
        expect(found.total).to.equal(all.reduce((sum, one) => sum + one, 0));
        expect(found.groups.map(({ total }) => total)).to.deep.equal(all.slice(0, most));
        for (const { value, total, days } of found.groups) {
          expect(total).to.equal(totals.get(value));
          expect(days.reduce((sum, one) => sum + (Number.isNaN(one) ? 0 : one), 0)).to.equal(total);
        }
        expect(found.others).to.deep.equal({
          count: all.slice(most).length,
          total: all.slice(most).reduce((sum, one) => sum + one, 0)
        });
        expect(found.unrated).to.deep.equal(Object.fromEntries(unrated));
      })
    );
  });
});
