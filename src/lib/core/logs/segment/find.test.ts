import { expect } from 'chai';
import fc from 'fast-check';
import { anyLine, lineAt } from '../../../../../tests/support/lines';
import { matcherOf } from '../search/match';
import { readSearch } from '../search/read';
import { writeSearch } from '../search/write';
import type { Comparison, Search } from '../search/tree';
import { searchedLine, type StreamContext } from '../searched';
import { Shapes } from '../shapes';
import type { Line } from '../line';
import { findLines, headPart, planSegment, readHead, readSummary, writeSegment, writeSummary } from './index';

const context: StreamContext = {
  service: 'functions',
  account: 'corallo-prod',
  stream: 'quote',
  resourceName: (id) => (id % 2 === 0 ? `quote-${id}` : undefined)
};

/** What a search finds in lines, and how many of the parts of their segment it looked at. */
function found(search: Search, lines: readonly Line[]): { lines: number[]; looked: number; parts: number } {
  const shapes = new Shapes();
  const { summary: written, parts } = writeSegment(
    lines,
    lines.map(({ text }) => shapes.add(text).id)
  );
  const summary = readSummary(writeSummary(written));
  const plan = planSegment(search, summary, context);
  if (plan === null) return { lines: [], looked: 0, parts: parts.length };
  const head = readHead(parts[headPart] as Uint8Array, summary.lines);
  const needed = new Map(plan.parts.map((part) => [part, parts[part] as Uint8Array]));
  return { lines: findLines(plan, summary, context, head, needed), looked: needed.size, parts: parts.length };
}

/** The same by trying the search on each line as it was. */
function slowly(search: Search, lines: readonly Line[]): number[] {
  const shapes = new Shapes();
  const matcher = matcherOf(search);
  return lines.flatMap((line, index) =>
    matcher.matches(searchedLine({ ...line, shape: shapes.add(line.text).id }, context)) ? index : []
  );
}

const at = [0, 0] as const;
const name = fc.constantFrom(
  ...['service', 'stream', 'resource', 'severity', 'shape', 'trace', 'event'],
  ...['node', 'user.id', 'duration_ms', '__proto__', 'nothing']
);
const leaf: fc.Arbitrary<Search> = fc.oneof(
  fc
    .constantFrom('order', 'paid', 'fare', 'per', 'seat*', '*', '18', '10', 'took', 'ms', 'level', 'zzz')
    .map((text): Search => ({ kind: 'words', text, quoted: false, at })),
  fc
    .constantFrom('paid in', 'served fare PER-SEL', 'pulled seats', 'out of memory', '10.0.3', '...')
    .map((text): Search => ({ kind: 'words', text, quoted: true, at })),
  fc
    .record({
      field: name,
      operator: fc.constantFrom<Comparison>('=', '!=', '<', '>='),
      value: fc.constantFrom('1', '17', '-1.5')
    })
    .map((one): Search => ({ kind: 'compare', ...one, quoted: false, at })),
  fc
    .record({ field: name, value: fc.constantFrom('functions', 'true', 'q*', '', 'container.killed') })
    .map((one): Search => ({ kind: 'compare', operator: '=', quoted: false, ...one, at })),
  fc
    .record({ field: fc.oneof(name, fc.constant('text')), pattern: fc.constantFrom('\\d{3}', 'a', '^served') })
    .map((one): Search => ({ kind: 'matches', ...one, at })),
  name.map((field): Search => ({ kind: 'has', field, at }))
);
const search: fc.Arbitrary<Search> = fc.letrec<{ search: Search }>((tie) => ({
  search: fc.oneof(
    { maxDepth: 3, withCrossShrink: true },
    leaf,
    tie('search').map((of): Search => ({ kind: 'not', of, at })),
    fc.array(tie('search'), { maxLength: 3 }).map((parts): Search => ({ kind: 'all', parts, at })),
    fc.array(tie('search'), { maxLength: 3 }).map((parts): Search => ({ kind: 'any', parts, at }))
  )
})).search;

describe('searching a segment', () => {
  it('finds what a search finds that is tried on each line', () => {
    fc.assert(
      fc.property(search, fc.array(anyLine, { minLength: 1, maxLength: 25 }), (asked, drafts) => {
        const lines = drafts.toSorted((a, b) => a.at - b.at || a.nanos - b.nanos);
        expect(found(asked, lines).lines, writeSearch(asked)).to.deep.equal(slowly(asked, lines));
      }),
      { numRuns: 2000 }
    );
  });

  const many = Array.from({ length: 2000 }, (_, index) =>
    index % 2 === 0
      ? lineAt(index, `order ${88_000 + index} paid in ${index % 40} ms`, { severity: index % 500 === 0 ? 17 : 9 })
      : lineAt(index, `cache above its limit: ${index % 512} of 512 MiB`, { fields: { node: `n${index % 3}` } })
  );
  const foundBy = (text: string) => found(readSearch(text), many);

  it('looks at no text where what all lines of a shape say is enough', () => {
    expect(foundBy('paid').lines).to.have.length(1000);
    expect(foundBy('paid').looked).to.equal(0);
    expect(foundBy('paid severity = error')).to.include({ looked: 0 });
    expect(foundBy('paid severity = error').lines).to.deep.equal([0, 500, 1000, 1500]);
    expect(foundBy('')).to.deep.include({ looked: 0 });
  });

  it('looks only at what can have a rare word', () => {
    const rare = foundBy('88042');
    expect(rare.lines).to.deep.equal([42]);
    expect(rare.looked).to.equal(1);
    expect(rare.parts).to.be.above(2);
  });

  it('passes over what surely has nothing', () => {
    for (const text of ['seatmap', 'node = n7', 'has user', 'severity > error', 'service = clusters', 'paid "above"'])
      expect(planSegment(readSearch(text), summaryOf(many), context), text).to.equal(null);
  });
});

const summaryOf = (lines: readonly Line[]) =>
  writeSegment(
    lines,
    lines.map(({ text }) => (text.startsWith('order') ? 1 : 2))
  ).summary;
