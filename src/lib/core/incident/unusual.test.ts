import { expect } from 'chai';
import fc from 'fast-check';
import { compareWithPast, unusualText, type Course } from './index';

const steady = Array<number>(24).fill(10);
/** What is known of a metric that could be compared. */
function known(course: Course) {
  const found = compareWithPast(course);
  if (found.kind !== 'known') throw new Error(found.kind);
  return found;
}

describe('what was unusual then', () => {
  it('is so many robust standard deviations from the middle of its past', () => {
    const past = Array.from({ length: 25 }, (_, index) => 100 + (index % 5)); // 100 … 104, median 102, deviations 0 1 1 2 2: median 1
    expect(compareWithPast({ past, then: [130, 131, 500] })).to.deep.equal({
      kind: 'known',
      usual: 102,
      value: 131,
      distance: (131 - 102) / Math.max(1.4826, 0.1 * 102)
    });
  });

  it('what hardly ever moves is not infinitely unusual, what was always 0 is as unusual as can be', () => {
    expect(known({ past: steady, then: [12] })).to.include({ usual: 10, value: 12, distance: 2 });
    const zero = Array<number>(24).fill(0);
    expect(known({ past: zero, then: [0.1] }).distance).to.equal(1000);
    expect(known({ past: zero, then: [0] }).distance).to.equal(0);
  });

  it('says nothing of too short a past; what was measured before and not then is silent; gaps count for nothing', () => {
    expect(compareWithPast({ past: steady.slice(1), then: [12] })).to.deep.equal({ kind: 'young' });
    expect(compareWithPast({ past: steady, then: [] }), 'nothing is known of then yet').to.deep.equal({
      kind: 'young'
    });
    expect(compareWithPast({ past: steady, then: [NaN, Infinity] })).to.deep.equal({ kind: 'silent', usual: 10 });
    expect(known({ past: [...steady, NaN, NaN], then: [NaN, 12] }).distance).to.equal(2);
  });

  it('is the same in any unit, in any order, and as far below as above', () => {
    const number = fc.double({ min: 1, max: 1e6, noNaN: true });
    fc.assert(
      fc.property(
        fc.array(number, { minLength: 24, maxLength: 60 }),
        fc.array(number, { minLength: 1, maxLength: 9 }),
        fc.constantFrom(0.25, 8, 1024),
        (past, then, factor) => {
          const found = known({ past, then });
          const scaled = known({
            past: past.toReversed().map((v) => v * factor),
            then: then.map((v) => v * factor)
          });
          expect(scaled.distance).to.be.closeTo(found.distance, Math.abs(found.distance) * 1e-9 + 1e-9);
          const mirrored = known({ past: past.map((v) => -v), then: then.map((v) => -v) });
          expect(mirrored.distance).to.be.closeTo(-found.distance, Math.abs(found.distance) * 1e-9 + 1e-9);
        }
      )
    );
  });

  it('is said as people compare', () => {
    const say = (usual: number, value: number) => unusualText({ usual, value, distance: Math.sign(value - usual) * 9 });
    expect([say(10, 120), say(10, 16), say(10, 1), say(10, 5), say(10, 3.4)]).to.deep.equal([
      '12 × usual',
      '1.6 × usual',
      'a tenth of usual',
      'a half of usual',
      'a third of usual'
    ]);
    expect([say(100, 3), say(100, 0), say(0, 4), say(100, 110), say(100, 90)]).to.deep.equal([
      '1 ∕ 33 of usual',
      'none, usually some',
      'usually 0',
      'above usual',
      'below usual'
    ]);
  });
});
