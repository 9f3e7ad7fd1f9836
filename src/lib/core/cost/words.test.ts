import { expect } from 'chai';
import fc from 'fast-check';
import { selectionWithin, selectionWithout, costSelectionFrom, costSearch, type CostSelection } from './cost-selection';
import { micros } from './money';
import { monthOf } from './month';
import {
  aboutMoney,
  changeWords,
  dayWords,
  dimensionWords,
  groupWords,
  monthWords,
  roundMoney,
  timesWords
} from './words';

describe('costs in words', () => {
  it('are amounts as people say them', () => {
    expect(roundMoney(micros(19_512_340_000), 'EUR')).to.equal('€19,512');
    expect(roundMoney(micros(-12_340_000), 'EUR')).to.equal('-€12.34');
    expect([19_512.34, 0.0123, 0, 999.6].map((one) => aboutMoney(one, 'EUR'))).to.deep.equal([
      '€19,500',
      '€0.01',
      '€0',
      '€1,000'
    ]);
  });

  it('are changes, also from nothing and to nothing', () => {
    expect([
      changeWords(196, 100),
      changeWords(99, 100),
      changeWords(100, 100),
      changeWords(5, 0),
      changeWords(4000, 100)
    ]).to.deep.equal(['+96 %', '−1 %', '0 %', null, '× 40']);
    expect([
      timesWords(174, 88),
      timesWords(12, 0),
      timesWords(40, 10),
      timesWords(13, 10),
      timesWords(7, 10)
    ]).to.deep.equal(['twice as much', 'is new', '4.0 times as much', '30 % more', '30 % less']);
  });

  it('are names of groups, months and days', () => {
    expect(groupWords('service', 'objects', '')).to.equal('Objects');
    expect(groupWords('service', 'other', '')).to.equal('Unallocated');
    expect(groupWords('resource', 'prod\nlev-1', 'ticket-orders')).to.equal('ticket-orders');
    expect(groupWords('resource', 'prod\nlev-1', '')).to.equal('lev-1');
    expect(groupWords('label:team', '', '')).to.equal('Without the label');
    expect(groupWords('region', '', '')).to.equal('Unallocated');
    expect(groupWords('category', 'credit', '')).to.equal('Credits');
    expect([monthWords(monthOf('2026-11'), 2026), monthWords(monthOf('2025-12'), 2026)]).to.deep.equal([
      'November',
      'December 2025'
    ]);
    expect([dayWords('2026-11-04'), dimensionWords('label:team'), dimensionWords('category')]).to.deep.equal([
      '4 Nov',
      'label team',
      'kind of charge'
    ]);
  });
});

describe('which costs are selection for', () => {
  const any: fc.Arbitrary<CostSelection> = fc.record({
    month: fc.constantFrom(null, '2026-11', '2025-01'),
    by: fc.constantFrom('service', 'account', 'resource', 'label:cost centre'),
    basis: fc.constantFrom('billed', 'amortised'),
    filters: fc.uniqueArray(
      fc.record({
        by: fc.constantFrom('service', 'account', 'resource', 'label:a=b&c'),
        values: fc.array(fc.string({ maxLength: 10 }), { minLength: 1, maxLength: 3 })
      }),
      { selector: ({ by }) => by, maxLength: 4 }
    )
  });

  it('is what the address says that was made of it', () => {
    fc.assert(
      fc.property(any, (selection) => {
        expect(costSelectionFrom(new URLSearchParams(costSearch(selection)))).to.deep.equal(selection);
      })
    );
    expect(costSearch({ month: null, by: 'service', basis: 'amortised', filters: [] })).to.equal('');
  });

  it('is the usual for an address that says something else', () => {
    const found = costSelectionFrom(new URLSearchParams('month=2026-13&by=shoes&as=x&only.shoes=1&only.=2'));
    expect(found).to.deep.equal({ month: null, by: 'service', basis: 'amortised', filters: [] });
  });

  it('goes on to one group, by resource or by usage, and back', () => {
    const selection = costSelectionFrom(new URLSearchParams('by=service'));
    const objects = selectionWithin(selection, 'objects');
    expect(costSearch(objects)).to.equal('by=resource&only.service=objects');
    expect(costSearch(selectionWithin(objects, 'x\ny'))).to.equal('by=usage&only.service=objects&only.resource=x%0Ay');
    expect(costSearch(selectionWithout(objects, 'service'))).to.equal('by=resource');
  });
});
