import { expect } from 'chai';
import fc from 'fast-check';
import { readSearch, writeSearch } from '../logs';
import type { LabelCondition } from './conditions';
import { searchBehind, searchText, servicesOfLines } from './lines-row';
import { searchOfLines } from './lines-search';
import { signalSchema } from './schema';
import { signalSentence } from './sentence';

describe('a row of lines', () => {
  const value = fc.constantFrom('corallo-prod', 'a "quoted" one', 'back\\slash', 'or', 'a/b');
  const condition: fc.Arbitrary<LabelCondition> = fc.oneof(
    fc.record({
      label: fc.constantFrom('account', 'service', 'region'),
      is: fc.array(value, { minLength: 1, maxLength: 3 })
    }),
    fc.record({ label: fc.constant('resource'), isNot: fc.array(value, { minLength: 1, maxLength: 3 }) }),
    fc.record({ label: fc.constant('account'), matches: fc.constantFrom('a.*b', 'x/y') }),
    fc.record({ label: fc.constant('service'), matchesNot: fc.constantFrom('^c', 'x/y') }),
    fc.record({ label: fc.constant('account'), picker: fc.constant('account') })
  );

  it('is typed as it is read, with its conditions', () => {
    const lines = fc.constantFrom(
      '',
      'killed',
      'killed or "out of memory"',
      'a and b',
      'not a',
      'status >= 500 (a or b) c'
    );
    fc.assert(
      fc.property(lines, fc.array(condition, { maxLength: 3 }), (text, where) => {
        const row = { lines: text, where };
        const clean = (search: string) => writeSearch(readSearch(search));
        expect(clean(searchText(row))).to.equal(clean(writeSearch(searchOfLines(row))));
      })
    );
  });

  it('leads to the lines behind one of its series', () => {
    const row = { lines: 'refused', where: [], by: ['reason', 'shape'] };
    const labels = { reason: 'no seat', shape: 'run ‹number› of table ‹…› failed' };
    expect(searchBehind(row, labels)).to.equal('refused reason = "no seat" "of table"');
    expect(searchBehind(row)).to.equal('refused');
    expect(searchBehind({ ...row, by: ['odd name'] }, { 'odd name': 'x' })).to.equal('refused "odd name" = "x"');
    for (const shape of ['‹…›', ''] as const) expect(searchBehind(row, { shape })).to.equal('refused');
  });

  it('names its services where that is plain to see', () => {
    const of = (lines: string, where: LabelCondition[] = []) => servicesOfLines({ lines, where });
    expect(of('service = clusters killed')).to.deep.equal(['clusters']);
    expect(of('killed', [{ label: 'service', is: ['caches'] }])).to.deep.equal(['caches']);
    expect(of('service = clusters or service = caches')).to.deep.equal([]);
    expect(of('not service = clusters')).to.deep.equal([]);
    expect(of('service = c*')).to.deep.equal([]);
    expect(of('killed')).to.deep.equal([]);
  });

  it('is said in one sentence, and refused where it cannot be one', () => {
    const row = { name: 'a', lines: 'fares', by: ['path'], of: { field: 'ms', statistic: 'p95', unit: 'ms' } };
    const said = signalSentence(signalSchema.parse({ version: 2, step: 'PT5M', rows: [row] }), () => undefined);
    expect(said).to.equal('95th percentile of ms in lines that match “fares” by path, every 5 minutes, in ms');
    const refused = (more: object) => signalSchema.safeParse({ version: 2, step: 'PT5M', rows: [{ ...row, ...more }] });
    expect(refused({ by: ['a', 'b', 'c', 'd'] }).success).to.equal(false);
    expect(refused({ pattern: { kind: 'text', text: 'no part' } }).success).to.equal(false);
    expect(refused({ formula: 'a' }).success).to.equal(false);
  });
});
