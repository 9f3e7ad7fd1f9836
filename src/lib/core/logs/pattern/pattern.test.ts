import { expect } from 'chai';
import fc from 'fast-check';
import { isRefused } from '../../problem/problem';
import { relaxed } from '../search/relax';
import { matcherOf } from '../search/match';
import { readSearch } from '../search/read';
import { writeSearch } from '../search/write';
import { nameBefore, patternFromSample } from './from-sample';
import { fieldExtractor, linePatternSchema, patternFields, type LinePattern } from './line-pattern';
import { readTextPattern, textExtractor, writeTextPattern } from './text-pattern';

const extract = (pattern: string, text: string) => textExtractor(readTextPattern(pattern))(text);
const refusal = (pattern: string): string => {
  try {
    readTextPattern(pattern);
    return '';
  } catch (error) {
    if (!isRefused(error, 'pattern-invalid')) throw error;
    return error.message;
  }
};

describe('fields read from the text of lines', () => {
  const access = '203.0.113.9 - - [26/Nov/2026:03:10:11 +0000] "GET /sailings?from=perla HTTP/1.1" 200 5120 14.2 ms';

  it('are what a pattern names, wherever it begins', () => {
    expect(extract('took ‹ms:number› ms', 'answer 7 took 12.5 ms')).to.deep.equal({ ms: '12.5' });
    expect(
      extract('‹address› - - [‹…›] "‹method› ‹path› ‹…›" ‹status:number› ‹bytes:number› ‹ms:number› ms', access)
    ).to.deep.equal({
      ...{ address: '203.0.113.9', method: 'GET', path: '/sailings?from=perla' },
      ...{ status: '200', bytes: '5120', ms: '14.2' }
    });
    expect(extract('user “‹name:text›” left', 'user “Oda Lind” left')).to.deep.equal({ name: 'Oda Lind' });
    expect(extract('took ‹ms:number› ms', 'took long ms')).to.equal(null);
    expect(extract('a=‹a› b', 'a=1 a=2 b')).to.deep.equal({ a: '2' });
    expect(extract('rest ‹rest:text›', 'rest of it all')).to.deep.equal({ rest: 'of it all' });
  });

  it('refuses a pattern that cannot be read, with what to do', () => {
    expect(refusal('took 12 ms')).to.equal('It names no part of a line.');
    expect(refusal('‹a›‹b›')).to.include('side by side');
    expect(refusal('‹a› and ‹a›')).to.equal('Two parts are named a.');
    expect(refusal('‹a:date›')).to.equal('There is no kind “date”.');
    expect(refusal('‹1a›')).to.include('no name of a field');
    expect(refusal('‹a› ‹')).to.equal('‹ stands alone.');
    expect(linePatternSchema.safeParse({ kind: 'text', text: 'nothing' }).success).to.equal(false);
    expect(linePatternSchema.safeParse({ kind: 'expression', expression: '(' }).success).to.equal(false);
    expect(linePatternSchema.safeParse({ kind: 'expression', expression: 'a+' }).success).to.equal(false);
  });

  it('are keys with values, JSON, columns or groups of an expression', () => {
    expect(fieldExtractor({ kind: 'pairs' })('fare=12 class="first class", from=perla')).to.deep.equal({
      ...{ fare: '12', class: 'first class', from: 'perla' }
    });
    expect(fieldExtractor({ kind: 'pairs' })('nothing here')).to.equal(null);
    expect(
      fieldExtractor({ kind: 'json' })('checkout {"took":12,"to":{"port":"sella"},"ok":true,"legs":[1]}')
    ).to.deep.equal({
      ...{ took: 12, 'to.port': 'sella', ok: true }
    });
    expect(fieldExtractor({ kind: 'json' })('{broken')).to.equal(null);
    expect(fieldExtractor({ kind: 'json' })('{"a":}')).to.equal(null);
    expect(fieldExtractor({ kind: 'columns', separator: ' ', names: ['a', '', 'c'] })('1  2 3 4')).to.deep.equal({
      a: '1',
      c: '3'
    });
    expect(fieldExtractor({ kind: 'columns', separator: '|', names: ['a', 'b'] })('1|2|3')).to.deep.equal({
      a: '1',
      b: '2'
    });
    expect(fieldExtractor({ kind: 'columns', separator: '|', names: ['a', 'b'] })('1')).to.equal(null);
    const expression = { kind: 'expression', expression: 'took (?P<ms>[0-9]+)' } as const;
    expect(fieldExtractor(expression)('it took 12 ms')).to.deep.equal({ ms: '12' });
    expect(fieldExtractor(expression)('it took long')).to.equal(null);
    expect(patternFields(expression)).to.deep.equal(['ms']);
  });

  it('never fail and never take long, whatever the text', () => {
    const written: LinePattern[] = [
      { kind: 'text', text: 'a‹x›b ‹y:number› ‹z:text›c' },
      { kind: 'pairs' },
      { kind: 'json' },
      { kind: 'columns', separator: ',', names: ['a', 'b'] }
    ];
    const patterns = written.map(fieldExtractor);
    const text = fc.oneof(
      fc.string({ unit: 'binary', maxLength: 300 }),
      fc
        .array(fc.constantFrom('a', 'b', ' ', '=', '"', '{', '}', ':', ',', '\\', '1', 'c'), { maxLength: 300 })
        .map((all) => all.join(''))
    );
    fc.assert(
      fc.property(text, (one) => void patterns.map((of) => of(one))),
      { numRuns: 2000 }
    );
    for (const hostile of ['a'.repeat(1e6), 'a="'.repeat(3e5), '{'.repeat(1e6), 'a1b '.repeat(3e5)])
      patterns.map((of) => of(hostile));
  });

  it('a pattern is written as it was read', () => {
    const piece = fc.constantFrom('took ', '‹ms:number›', ' ms', '‹…›', '‹path›', ' by ', '‹who:text›');
    fc.assert(
      fc.property(fc.array(piece, { maxLength: 7 }), (parts) => {
        const text = parts.join('');
        fc.pre(refusal(text) === '');
        expect(writeTextPattern(readTextPattern(text))).to.equal(text);
      })
    );
  });

  it('a pattern from a marked line matches that line with what was marked', () => {
    const from = access.indexOf('200');
    const ms = access.indexOf('14.2');
    const pattern = patternFromSample(access, [
      { from: ms, to: ms + 4, name: 'ms' },
      { from, to: from + 3, name: 'status' }
    ]);
    expect(extract(pattern, access)).to.deep.equal({ status: '200', ms: '14.2' });
    const other = access.replace('203.0.113.9', '198.51.100.7').replace('03:10:11', '04:00:00').replace('14.2', '905');
    expect(extract(pattern, other), pattern).to.deep.equal({ status: '200', ms: '905' });
    const words = fc.array(fc.constantFrom('fare', '12', '10.0.0.7', 'took', 'class=first', '(a)', '‹'), {
      minLength: 1,
      maxLength: 8
    });
    fc.assert(
      fc.property(words, fc.nat(), (all, which) => {
        const at = which % all.length;
        const sample = all.join(' ');
        const begin = all.slice(0, at).join(' ').length + (at === 0 ? 0 : 1);
        const word = all[at] as string;
        fc.pre(word !== '‹');
        const made = patternFromSample(sample, [{ from: begin, to: begin + word.length, name: 'x' }]);
        const found = extract(made, sample);
        expect(found, `${made} on ${sample}`).not.to.equal(null);
      })
    );
    expect(nameBefore('status=500', 7)).to.equal('status');
    expect(nameBefore('{"took": 12}', 9)).to.equal('took');
    expect(nameBefore('12', 0)).to.equal('value');
  });
});

describe('a search without the fields that are read later', () => {
  it('finds at least what the whole search finds', () => {
    const part = fc.constantFrom(
      'fares',
      'status >= 500',
      'not status = 200',
      'took',
      'has status',
      'path matches /x/',
      'severity = error'
    );
    const text = fc
      .array(fc.tuple(part, fc.constantFrom(' ', ' or ', ' and ')), { minLength: 1, maxLength: 5 })
      .map((all) => all.map(([one, sign], index) => (index === all.length - 1 ? one : one + sign)).join(''));
    const line = fc.record({
      text: fc.constantFrom('fares took', 'fares', 'nothing', ''),
      severity: fc.constantFrom(0, 9, 17),
      status: fc.constantFrom(undefined, '200', '503'),
      path: fc.constantFrom(undefined, 'x', 'y')
    });
    fc.assert(
      fc.property(text, line, (typed, { text: said, severity, ...fields }) => {
        const search = readSearch(typed);
        const field = (name: string) => fields[name as 'status'];
        const whole = matcherOf(search).matches({ text: said, severity, field });
        const less = relaxed(search, (name) => name in fields);
        const without = matcherOf(less).matches({ text: said, severity, field: () => undefined });
        if (whole) expect(without, writeSearch(less)).to.equal(true);
      }),
      { numRuns: 1000 }
    );
  });
});
