import { Refusal, type TextSpan } from '../problem/problem';
import { expect } from 'chai';
import fc from 'fast-check';
import { readFileSync } from 'node:fs';
import { signalSchema, type Readings, type Source } from '../signal';
import { evaluateSignal, prepare } from '../signal/evaluate';
import { duration, instant, minute, type Grid } from '../time';
import { mostFormulaDepth, namesIn, readFormula, type Formula } from './index';

const numbers = (text: string): number[] =>
  text
    .trim()
    .split(/\s+/)
    .map((word) => (word === 'gap' ? NaN : Number(word)));

/** Rows as the guide writes them: cells before the bar lie before the range. */
interface Rows {
  readonly values: Map<string, number[]>;
  readonly before: number;
  readonly cells: number;
}

/** A formula over rows of one series each, by the whole evaluator. */
function workedOut(formula: string, { values, before, cells }: Rows): number[] {
  const start = 1000 * minute;
  const names = [...values.keys()];
  const signal = signalSchema.parse({
    version: 2,
    step: 'PT1M',
    rows: [...names.map((name) => ({ name, metric: name, statistic: 'avg' })), { name: 'result', formula }]
  });
  const readings: Readings = {
    aligned: ({ id }, { start: from, count }: Grid) => {
      const row = values.get(names[id] as string) as number[];
      const first = (from - start) / minute + before;
      return Float64Array.from({ length: count }, (_, i) => row[first + i] ?? NaN);
    },
    pooled: () => new Float64Array(),
    newest: () => null,
    counted: () => ({ columns: [], unit: '1', isRatio: false })
  };
  const sourcesOf = (name: string): Source[] => [
    { id: names.indexOf(name), labels: {}, kind: 'gauge', unit: '1', samplingMs: minute }
  ];
  const grid = { start: instant(start), step: duration(minute), count: cells };
  const { rows } = evaluateSignal(prepare(signal), grid, sourcesOf, readings, start + cells * minute);
  return [...(rows[0]?.columns[0]?.values ?? [])];
}

describe('formulas', () => {
  const guide = readFileSync('docs/guides/write-a-formula.md', 'utf8');
  const blocks = [...guide.matchAll(/```example\n([\s\S]*?)```/g)].map(([, text]) =>
    (text as string).trim().split('\n')
  );
  it('has examples in its guide', () => expect(blocks.length).to.be.at.least(4));
  for (const lines of blocks) {
    const values = new Map<string, number[]>();
    let before = 0;
    let cells = 0;
    for (const line of lines.filter((one) => !one.includes('->'))) {
      const [name = '', row = ''] = line.split(' = ');
      const [early = '', shown] = row.includes('|') ? row.split('|') : ['', row];
      before = early === '' ? 0 : numbers(early).length;
      cells = numbers(shown ?? '').length;
      values.set(name, numbers(row.replace('|', ' ')));
    }
    for (const line of lines.filter((one) => one.includes('->'))) {
      const [formula = '', result = ''] = line.split('->');
      it(`${formula.trim()} is as the guide says`, () => {
        expect(workedOut(formula, { values, before, cells })).to.deep.equal(numbers(result));
      });
    }
  }

  it('name their rows once each; the way of filling is no row', () => {
    expect(namesIn(readFormula('served / (served + failed)'))).to.deep.equal(['served', 'failed']);
    expect(namesIn(readFormula('fill(a, last) + previous(b, 1 week)'))).to.deep.equal(['a', 'b']);
  });

  it('that cannot be read say what and where', () => {
    const fault = (text: string): unknown[] => {
      try {
        readFormula(text);
      } catch (error) {
        if (error instanceof Refusal) return [error.message, error.place];
        throw error;
      }
      return [];
    };
    expect(fault('a <')).to.deep.equal(['The formula ends too early: something is missing here.', [3, 3]]);
    expect(fault('a < b < c')).to.deep.equal(['Comparisons do not chain: put one of them in brackets.', [6, 7]]);
    expect(fault('a $ b')).to.deep.equal(['“$” has no meaning in a formula.', [2, 3]]);
    expect(fault('a b')).to.deep.equal(['“b” is not expected here.', [2, 3]]);
    expect(fault('  ')).to.deep.equal(['The formula is empty.', [0, 2]]);
    expect(fault('('.repeat(10_000))[0]).to.equal('The formula has 10000 characters; at most 2000 are read.');
    expect(fault(`${'('.repeat(900)}a${')'.repeat(900)}`)[1]).to.deep.equal([mostFormulaDepth, mostFormulaDepth + 1]);
    expect(fault('-'.repeat(1900) + 'a')[0]).to.include('signs and powers');
    expect(fault('a+'.repeat(200) + 'a')).to.deep.equal([]);
  });

  it('written out in full and read again are the same tree; whatever is typed is read or refused', () => {
    const tree: fc.Arbitrary<string> = fc.letrec<{ node: string }>((tie) => ({
      node: fc.oneof(
        { maxDepth: 5 },
        fc.constantFrom('a', 'b', '2', '0.5', '1e3'),
        fc
          .tuple(tie('node'), fc.constantFrom('+', '-', '*', '/', '^', '<='), tie('node'))
          .map(([left, operator, right]) => `(${left} ${operator} ${right})`),
        tie('node').map((of) => `(-${of})`),
        fc.tuple(tie('node'), tie('node')).map(([one, other]) => `max(${one}, ${other})`)
      )
    })).node;
    const written = (node: Formula): string => {
      if (node.kind === 'number') return String(node.value);
      if (node.kind === 'name') return node.name;
      if (node.kind === 'negative') return `(-${written(node.of)})`;
      if (node.kind === 'binary') return `(${written(node.left)} ${node.operator} ${written(node.right)})`;
      if (node.kind === 'call') return `${node.name}(${node.parts.map(written).join(', ')})`;
      return `${node.milliseconds / 1000} s`;
    };
    fc.assert(
      fc.property(tree, (text) => {
        const plain = text.replaceAll('1e3', '1000');
        expect(written(readFormula(text))).to.equal(plain);
      })
    );
    fc.assert(
      fc.property(fc.string({ unit: fc.constantFrom(...'ab1 .+-*/^()<=,%"\n'), maxLength: 40 }), (text) => {
        try {
          readFormula(text);
        } catch (error) {
          expect(error).to.be.instanceOf(Refusal);
          const [from, to] = (error as Refusal).place as TextSpan;
          expect(from >= 0 && from <= to && to <= text.length).to.equal(true);
        }
      }),
      { numRuns: 2000 }
    );
  });
});
