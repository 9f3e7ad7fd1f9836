import { expect } from 'chai';
import fc from 'fast-check';
import { anyLine, anyText, lineAt } from '../../../../../tests/support/lines';
import { Shapes } from '../shapes';
import { valueText, type Line } from '../line';
import { wordsIn } from '../search/words';
import { ByteReader, ByteWriter } from './bytes';
import { readStrings, writeStrings } from './strings';
import {
  headPart,
  mayHave,
  partsOfLines,
  readHead,
  readLines,
  readSummary,
  writeSegment,
  writeSummary,
  type SegmentSummary
} from './index';

const shapesOf = (lines: readonly Line[]): number[] => {
  const shapes = new Shapes();
  return lines.map(({ text }) => shapes.add(text).id);
};
const inOrder = (lines: readonly Line[]): Line[] => lines.toSorted((a, b) => a.at - b.at || a.nanos - b.nanos);

/** What is kept of lines, read back by the parts that these need and no other. */
function readBack(lines: readonly Line[], wanted = lines.map((_line, index) => index)) {
  const { summary: written, parts } = writeSegment(lines, shapesOf(lines));
  const summary = readSummary(writeSummary(written));
  const head = readHead(parts[headPart] as Uint8Array, summary.lines);
  const needed = new Map(partsOfLines(summary, head, wanted).map((part) => [part, parts[part] as Uint8Array]));
  return { summary, written, lines: readLines(summary, head, needed, wanted) };
}
const withoutShape = ({ shape: _shape, ...line }: Line & { readonly shape: number }): Line => line;

describe('a segment of lines', () => {
  it('gives back every line as it was', () => {
    fc.assert(
      fc.property(fc.array(anyLine, { minLength: 1, maxLength: 60 }), (drafts) => {
        const lines = inOrder(drafts);
        const read = readBack(lines);
        expect(read.lines.map(withoutShape)).to.deep.equal(lines);
        expect(read.lines.map(({ shape }) => shape)).to.deep.equal(shapesOf(lines));
        expect(read.summary).to.deep.equal(read.written);
      }),
      { numRuns: 300 }
    );
  });

  it('gives back some of them', () => {
    const lines = Array.from({ length: 300 }, (_, index) =>
      lineAt(index, `order ${index} paid in ${index % 7} ms`, { fields: index % 3 === 0 ? { n: BigInt(index) } : {} })
    );
    expect(readBack(lines, [17, 3, 299]).lines.map(({ text, fields }) => [text, fields])).to.deep.equal([
      ['order 17 paid in 3 ms', {}],
      ['order 3 paid in 3 ms', { n: 3n }],
      ['order 299 paid in 5 ms', {}]
    ]);
  });

  it('says what is in it without being read: severities, spans of time, values, words', () => {
    fc.assert(
      fc.property(fc.array(anyLine, { minLength: 1, maxLength: 40 }), (drafts) => {
        const lines = inOrder(drafts);
        const { summary } = readBack(lines);
        expect([summary.lines, summary.from, summary.to]).to.deep.equal([lines.length, lines[0]?.at, lines.at(-1)?.at]);
        for (const [severity, count] of summary.severities.entries())
          expect(lines.filter((line) => line.severity === severity)).to.have.length(count);
        for (const { text, fields, trace } of lines) {
          for (const { word } of wordsIn(text)) expect(mayHaveWord(summary, word), word).to.equal(true);
          for (const [name, value] of Object.entries(fields)) {
            const field = summary.fields.find((one) => one.name === name);
            const small = valueText(value).toLowerCase();
            expect(field?.values === null ? mayHave(field.filter, small) : field?.values?.includes(small)).to.equal(
              true
            );
          }
          if (trace !== '') expect(mayHave(summary.traces, trace)).to.equal(true);
        }
      })
    );
  });

  it('rarely seems to have what it has not', () => {
    const lines = Array.from({ length: 5000 }, (_, index) => lineAt(index, `order ${index * 7} paid`));
    const { summary } = readBack(lines, []);
    let wrong = 0;
    for (let other = 0; other < 10_000; other++) if (mayHaveWord(summary, `x${other}`)) wrong++;
    expect(wrong).to.be.below(400);
  });

  it('keeps fields that are too many for columns together', () => {
    const lines = Array.from({ length: 3 }, (_, index) =>
      lineAt(index, 'many', {
        fields: Object.fromEntries(Array.from({ length: 400 }, (__, name) => [`f${index}-${name}`, `v${name}`]))
      })
    );
    const read = readBack(lines);
    expect(read.summary.fields).to.have.length(201);
    expect(read.lines.map(withoutShape)).to.deep.equal(lines);
  });

  it('that is cut short or overwritten is refused, not read as something else without end', () => {
    const lines = inOrder(fc.sample(anyLine, 50));
    const { summary, parts } = writeSegment(lines, shapesOf(lines));
    const bytes = writeSummary(summary);
    for (let length = 0; length < bytes.length; length += 7)
      expect(() => readSummary(bytes.subarray(0, length))).to.throw(RangeError);
    const head = parts[headPart] as Uint8Array;
    for (let length = 0; length < head.length; length += 3)
      expect(() => readHead(head.subarray(0, length), summary.lines)).to.throw(RangeError);
  });
});

const mayHaveWord = ({ groups }: SegmentSummary, word: string): boolean =>
  groups.some(
    ({ pieces, filter }) =>
      mayHave(filter, word) ||
      (pieces ?? []).some((piece) => piece !== null && wordsIn(piece).some((one) => one.word === word))
  );

describe('a column of strings', () => {
  const readBackStrings = (values: readonly string[]): { read: string[]; bytes: number } => {
    const writer = new ByteWriter();
    writeStrings(writer, values);
    return { read: readStrings(new ByteReader(writer.bytes()), values.length), bytes: writer.length };
  };

  it('is read as it was written, whatever it is', () => {
    const digits = fc.string({ unit: fc.constantFrom(...'0019'), maxLength: 20 });
    const patterned = fc.tuple(digits, digits).map(([a, b]) => `x${a}.${b}µs`);
    for (const values of [anyText, digits, patterned, fc.constantFrom('a', 'b', '10', '010'), fc.string()])
      fc.assert(
        fc.property(fc.array(values, { maxLength: 50 }), (all) => {
          const wellFormed = all.map((one) => one.toWellFormed());
          expect(readBackStrings(wellFormed).read).to.deep.equal(wellFormed);
        })
      );
  });

  it('is small where it is numbers, few values or one', () => {
    const many = Array.from({ length: 1000 }, (_, index) => index);
    expect(readBackStrings(many.map(() => 'seatmap')).bytes).to.be.below(15);
    expect(readBackStrings(many.map((one) => `seatmap-${one % 3}`)).bytes).to.be.below(1100);
    expect(readBackStrings(many.map((one) => String(one + 88_000))).bytes, 'they grow by one').to.be.below(1100);
    expect(readBackStrings(many.map((one) => `10.0.${one % 250}.${one}`)).bytes).to.be.below(4600);
  });
});
