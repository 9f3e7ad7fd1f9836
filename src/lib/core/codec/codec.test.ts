import { expect } from 'chai';
import fc from 'fast-check';
import { pointsOfLength, type SummaryPoints } from '../series';
import { BitReader, BitWriter } from './bits';
import { decodeChunk, encodeChunk } from './index';
import { predictors, residuals, undoResiduals } from './predict';
import { readRice, writeRice } from './rice';

const bitsOf = ({ buffer, byteOffset, byteLength }: Float64Array): string =>
  Buffer.from(buffer, byteOffset, byteLength).toString('hex');
const names = ['at', 'sum', 'count', 'min', 'max'] as const;

/** The same columns bit by bit, or the name of the first that differs. */
const differing = (a: SummaryPoints, b: SummaryPoints) => names.filter((name) => bitsOf(a[name]) !== bitsOf(b[name]));

function pointsFrom(at: readonly number[], value: (i: number) => [number, number, number, number]): SummaryPoints {
  const points = pointsOfLength(at.length);
  at.forEach((moment, i) => {
    points.at[i] = moment;
    [points.sum[i], points.count[i], points.min[i], points.max[i]] = value(i);
  });
  return points;
}

const readerOf = (bits: BitWriter) => new BitReader(Uint32Array.of(...bits.words(), 0));

/** Rising instants: regular with gaps, or of any distances. */
const instants = fc.oneof(
  fc
    .tuple(
      fc.nat(2 ** 40),
      fc.integer({ min: 1, max: 3_600_000 }),
      fc.array(fc.integer({ min: 1, max: 5 }), { maxLength: 400 })
    )
    .map(([start, step, gaps]) => gaps.reduce((at, gap) => [...at, at.at(-1)! + gap * step], [start])),
  fc
    .tuple(fc.nat(2 ** 40), fc.array(fc.integer({ min: 1, max: 2 ** 30 }), { maxLength: 300 }))
    .map(([start, gaps]) => gaps.reduce((at, gap) => [...at, at.at(-1)! + gap], [start]))
);
const anyDouble = fc.double();
const decimal = fc
  .tuple(fc.integer({ min: -(10 ** 9), max: 10 ** 9 }), fc.nat(6))
  .map(([whole, places]) => whole / 10 ** places);

describe('packing points into a chunk', () => {
  for (const [kind, value] of [
    ['any doubles, negative zero, NaN and infinities among them', anyDouble],
    ['decimals', decimal],
    ['whole numbers beyond 32 bits', fc.integer({ min: -(2 ** 52), max: 2 ** 52 })],
    ['few values', fc.constantFrom(0, -0, 1, 0.1)]
  ] as const)
    it(`gives back every bit of ${kind}`, () => {
      fc.assert(
        fc.property(instants, fc.infiniteStream(value as fc.Arbitrary<number>), fc.boolean(), (at, stream, single) => {
          const next = () => stream.next().value as number;
          const points = pointsFrom(at, () => {
            const one = next();
            return single ? [one, 1, one, one] : [one, next(), next(), next()];
          });
          expect(differing(decodeChunk(encodeChunk(points)), points)).to.deep.equal([]);
        }),
        { numRuns: 150 }
      );
    });

  it('packs only the length it is given, and more than one block of it', () => {
    const points = pointsFrom(
      Array.from({ length: 1000 }, (_, i) => i * 60_000),
      (i) => [i / 4, 1, i / 4, i / 4]
    );
    const read = decodeChunk(encodeChunk(points, 700));
    expect([read.at.length, read.sum[699], read.at[699]]).to.deep.equal([700, 174.75, 699 * 60_000]);
  });

  it('takes next to nothing for a day that stays the same, and the same again with a gap in it', () => {
    const day = Array.from({ length: 1440 }, (_, i) => 1_777_852_800_000 + i * 60_000);
    const bytes = (at: readonly number[]) => encodeChunk(pointsFrom(at, () => [3.5, 1, 3.5, 3.5])).byteLength;
    expect(bytes(day)).to.equal(32);
    expect(bytes(day.filter((_, i) => i < 300 || i > 700))).to.be.below(60);
  });

  it('refuses no points, instants that do not rise, and what cannot be instants', () => {
    const of = (...at: number[]) => pointsFrom(at, () => [1, 1, 1, 1]);
    for (const bad of [of(), of(5, 5), of(5, 4), of(0.5), of(-1), of(NaN)])
      expect(() => encodeChunk(bad)).to.throw(RangeError, 'encodeChunk');
  });

  it('cut short, of another version or with bytes changed never gives points silently longer than written', () => {
    const points = pointsFrom(
      Array.from({ length: 200 }, (_, i) => i * 15_000),
      (i) => [(i * 7919) % 101, 2, i % 3, (i * 31) % 17]
    );
    const bytes = encodeChunk(points);
    for (let length = 0; length < bytes.length; length++)
      expect(() => decodeChunk(bytes.slice(0, length)), String(length)).to.throw(RangeError);
    expect(() => decodeChunk(Uint8Array.of(...bytes, 0, 0, 0, 0))).to.throw(RangeError, 'were written');
    fc.assert(
      fc.property(fc.nat(bytes.length - 1), fc.integer({ min: 1, max: 255 }), (index, flip) => {
        const broken = bytes.slice();
        broken[index] = broken[index]! ^ flip;
        try {
          expect(decodeChunk(broken).at.length).to.be.at.most(1_000_000);
        } catch (error) {
          expect(error).to.be.instanceOf(RangeError);
        }
      })
    );
  });
});

describe('the parts of the codec', () => {
  it('bits come back in the order they were written', () => {
    const piece = fc.integer({ min: 0, max: 53 }).chain((count) =>
      fc.record({
        count: fc.constant(count),
        value: fc.integer({ min: 0, max: count === 0 ? 0 : Math.min(2 ** count, Number.MAX_SAFE_INTEGER) - 1 })
      })
    );
    fc.assert(
      fc.property(fc.array(piece), (pieces) => {
        const writer = new BitWriter();
        for (const { value, count } of pieces) writer.write(value, count);
        const reader = readerOf(writer);
        expect(pieces.map(({ count }) => reader.read(count))).to.deep.equal(pieces.map(({ value }) => value));
        expect(reader.position).to.equal(writer.length);
      })
    );
  });

  it('Rice codes give back small, large and mixed whole numbers', () => {
    const values = fc.array(
      fc.oneof(
        fc.constant(0),
        fc.integer({ min: -20, max: 20 }),
        fc.integer({ min: -(2 ** 30), max: 2 ** 30 }),
        fc.integer({ min: -(2 ** 51), max: 2 ** 51 })
      ),
      { maxLength: 400 }
    );
    fc.assert(
      fc.property(values, (list) => {
        const writer = new BitWriter();
        writeRice(writer, Float64Array.from(list));
        const read = new Float64Array(list.length);
        readRice(readerOf(writer), read);
        expect([...read].map((value) => value + 0)).to.deep.equal(list.map((value) => value + 0));
      })
    );
  });

  it('each prediction is undone exactly', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...predictors),
        fc.array(fc.integer({ min: -(2 ** 49), max: 2 ** 49 })),
        (predictor, list) => {
          const left = residuals(Float64Array.from(list), predictor);
          undoResiduals(left, list[0] ?? 0, predictor);
          expect([...left]).to.deep.equal(list.map((value) => value + 0));
        }
      )
    );
  });
});
