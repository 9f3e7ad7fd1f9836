import { expect } from 'chai';
import fc from 'fast-check';
import { duration, instant } from '../time';
import type { BandModel } from './model';
import { asStored, modelBytes, modelFromBytes } from './stored';

describe('a stored band', () => {
  const number = fc.double({ noNaN: true, min: -1e6, max: 1e6 });
  const numbers = (count: number) =>
    fc.array(number, { minLength: count, maxLength: count }).map((all) => Float64Array.from(all));
  const model: fc.Arbitrary<BandModel> = fc.record({
    transform: fc.constantFrom<BandModel['transform']>(
      { kind: 'none' },
      { kind: 'log', offset: 0.1 },
      { kind: 'share', low: 0, high: 100 }
    ),
    slot: fc.constant(duration(300_000)),
    day: fc.oneof(numbers(0), numbers(288)),
    week: fc.oneof(numbers(0), numbers(168)),
    below: numbers(24),
    above: numbers(24),
    level: number,
    season: fc.constantFrom<BandModel['season']>('week', 'day', 'none'),
    until: fc.constant(instant(Date.UTC(2026, 10, 27))),
    days: fc.constant(27.9)
  });

  it('is the same when it is read again, to single precision', () => {
    fc.assert(
      fc.property(model, (one) => {
        const stored = asStored(one);
        expect(modelFromBytes(modelBytes(one))).to.deep.equal(stored);
        expect(modelFromBytes(modelBytes(stored))).to.deep.equal(stored);
        for (const [i, width] of one.below.entries())
          expect(stored.below[i]).to.be.closeTo(width, Math.abs(width) * 1e-6 + 1e-30);
      }),
      { numRuns: 60 }
    );
  });

  it('is none where the bytes are not those of one', () => {
    fc.assert(
      fc.property(model, fc.nat(5000), fc.uint8Array({ maxLength: 300 }), (one, cut, any) => {
        const bytes = modelBytes(one);
        const short = bytes.slice(0, cut % bytes.length);
        expect(modelFromBytes(short)).to.equal(null);
        expect(modelFromBytes(any)).to.equal(null);
      }),
      { numRuns: 60 }
    );
  });
});
