import { expect } from 'chai';
import fc from 'fast-check';
import { dateOf, dayOf, type BillEntry, type DayNumber } from '../bill';
import { micros } from '../money';
import { columnProblems, mandatoryColumns, momentOf, rowProblems } from './check';
import { focusColumns, neededColumns } from './columns';
import { readFocusRow } from './read-row';
import { focusRowOf } from './write-row';

const entry = (more: Partial<BillEntry['item']> = {}): BillEntry => ({
  item: {
    ...{ resource: 'lev-d-1', resourceName: 'ticket-orders', resourceType: 'database', region: 'perla-1' },
    ...{ service: 'databases', usage: 'database hours', unit: 'h', category: 'usage', currency: 'EUR' },
    labels: { team: 'booking', 'cost "centre"': 'é, 7' },
    ...more
  },
  ...{ day: dayOf('2026-11-03'), billed: micros(12_500_000), amortised: micros(13_000_001), quantity: 24 }
});
const of = { provider: 'Levante', account: 'corallo-prod' };
const row = (more: Record<string, string> = {}) => ({ ...focusRowOf(entry(), of), ...more });
const read = (cells: Record<string, string>) => {
  const found = readFocusRow(cells);
  if (found.kind === 'rejected') throw new Error(found.why);
  return found.entries;
};

describe('FOCUS', () => {
  it('is written with all columns that the specification wants, and none that it does not know', () => {
    const names = Object.keys(focusRowOf(entry(), of));
    const known = focusColumns.map(({ name }) => name);
    expect(names.filter((name) => !known.includes(name))).to.deep.equal([]);
    expect(
      mandatoryColumns.filter((name) => !['ChargeClass'].includes(name)).filter((name) => !names.includes(name))
    ).to.deep.equal([]);
    expect(known).to.have.length(43);
  });

  const texts = fc.string({ minLength: 1, maxLength: 20 }).filter((text) => text.trim() !== '');
  const anyEntry: fc.Arbitrary<BillEntry> = fc
    .record({
      resource: fc.option(texts),
      resourceType: fc.constantFrom('machine', 'object-store', ''),
      usage: texts,
      region: fc.constantFrom('', 'perla-1'),
      isUsed: fc.boolean(),
      currency: fc.constantFrom('EUR', 'CHF', 'JPY'),
      // Whoever calls a label so means harm: it is left out, see below.
      labels: fc.dictionary(
        texts.filter((text) => text !== '__proto__'),
        fc.string({ maxLength: 20 }),
        { maxKeys: 3 }
      ),
      billed: fc.integer({ min: -9e12, max: 9e12 }),
      amortised: fc.integer({ min: -9e12, max: 9e12 }),
      quantity: fc.double({ min: 0, max: 1e9, noNaN: true }).map((one) => one + 0),
      day: fc.integer({ min: 10_000, max: 40_000 })
    })
    .map(({ isUsed, resource, resourceType, billed, amortised, quantity, day, ...rest }) => ({
      item: {
        ...{ ...rest, resource, resourceName: resource ?? '', resourceType },
        ...{ service: resourceType === '' ? 'other' : resourceType === 'machine' ? 'machines' : 'objects' },
        ...{ unit: isUsed ? 'h' : '', category: isUsed ? ('usage' as const) : ('tax' as const) }
      },
      ...{ day: day as DayNumber, billed: micros(billed), amortised: micros(amortised) },
      quantity: isUsed ? quantity : null
    }));

  it('that is written fits the specification and is read back equal, whatever the entry', () => {
    fc.assert(
      fc.property(anyEntry, (one) => {
        const written = focusRowOf(one, of);
        expect(rowProblems(written)).to.deep.equal([]);
        expect(read(written)).to.deep.equal([one]);
      })
    );
    expect(read(row({ Tags: '{"__proto__":"x","team":"data"}' }))[0]?.item.labels).to.deep.equal({ team: 'data' });
  });

  it('says of a row what is wrong, with the column and what stands there', () => {
    const wrong: [Record<string, string>, string][] = [
      [{ BilledCost: 'ten' }, 'BilledCost is "ten": not a number.'],
      [{ BilledCost: '' }, 'BilledCost is "": it must not be empty.'],
      [{ BillingCurrency: 'EURO' }, 'BillingCurrency is "EURO": not a currency code of ISO 4217.'],
      [
        { ChargeCategory: 'usage' },
        'ChargeCategory is "usage": expected one of Usage, Purchase, Tax, Credit, Adjustment.'
      ],
      [
        { ChargePeriodStart: '2026-11-03' },
        'ChargePeriodStart is "2026-11-03": not a moment in UTC such as 2026-11-01T00:00:00Z.'
      ],
      [{ ChargePeriodEnd: '2026-11-03T00:00:00Z' }, 'ChargePeriodEnd is not after ChargePeriodStart.'],
      [{ Tags: '[1]' }, 'Tags is "[1]": not a JSON object of texts.']
    ];
    for (const [cells, why] of wrong) expect(readFocusRow(row(cells))).to.deep.equal({ kind: 'rejected', why });
    expect(readFocusRow(row({ BilledCost: '9'.repeat(40) }))).to.deep.equal({
      kind: 'rejected',
      why: 'An amount is too large.'
    });
    expect(readFocusRow(row({ ChargePeriodEnd: '2036-11-03T00:00:00Z' })))
      .to.have.property('why')
      .that.contains('more than 367 days');
    expect(columnProblems(['BilledCost', 'BilledCost'], ['BilledCost', 'ServiceName'])).to.deep.equal([
      'The column ServiceName is missing.',
      'The column BilledCost stands twice.'
    ]);
    expect(neededColumns.every((name) => focusColumns.some((column) => column.name === name))).to.equal(true);
  });

  it('counts hours to their day, and spreads what is for several days so that nothing is lost', () => {
    const hour = { ChargePeriodStart: '2026-11-03T23:00:00Z', ChargePeriodEnd: '2026-11-04T00:00:00Z' };
    expect(read(row(hour)).map(({ day }) => dateOf(day))).to.deep.equal(['2026-11-03']);
    const month = {
      ChargePeriodStart: '2026-11-01T00:00:00Z',
      ChargePeriodEnd: '2026-12-01T00:00:00Z',
      BilledCost: '100.000001'
    };
    const days = read(row(month));
    expect(days).to.have.length(30);
    expect(days.reduce((sum, { billed }) => sum + billed, 0)).to.equal(100_000_001);
    const bought = read(row({ ...month, ChargeCategory: 'Purchase' }));
    expect(bought.map(({ billed }) => billed)).to.deep.equal([100_000_001]);
  });

  it('reads what another program wrote with the needed columns alone', () => {
    const least = {
      ...{ BilledCost: '1e-3', BillingCurrency: 'NOK', ChargeCategory: 'Usage', ServiceName: 'Fish counting' },
      ...{ ChargePeriodStart: '2026-11-03T00:00:00Z', ChargePeriodEnd: '2026-11-04T00:00:00Z', x_own: 'anything' }
    };
    expect(read(least)[0]).to.deep.include({ billed: 1000, amortised: 1000, quantity: null });
    expect(read(least)[0]?.item).to.include({ service: 'Fish counting', usage: 'Fish counting', resource: null });
    expect([momentOf('2026-11-03T00:00:00.5Z'), momentOf('2026-13-03T00:00:00Z')]).to.deep.equal([1793664000500, null]);
  });
});
