import { expect } from 'chai';
import fc from 'fast-check';
import { optimalStarts } from './optimal-starts';

/** The least cost by trying every set of starts. */
function slow(values: readonly number[], noise: number, shortest: number): { total: number; starts: number[] } {
  const n = values.length;
  let best = { total: Infinity, starts: [0] };
  for (let bits = 0; bits < 2 ** (n - 1); bits++) {
    const starts = [0, ...Array.from({ length: n - 1 }, (_, i) => i + 1).filter((i) => (bits >> (i - 1)) & 1)];
    const total = totalOf(values, noise, starts);
    const isLongEnough = starts.every((from, i) => (starts[i + 1] ?? n) - from >= shortest);
    if (isLongEnough && total < best.total - 1e-9) best = { total, starts };
  }
  return best;
}

function totalOf(values: readonly number[], noise: number, starts: readonly number[]): number {
  const costs = starts.map((from, i) => {
    const own = values.slice(from, starts[i + 1] ?? values.length).map((value) => value / noise);
    const mean = own.reduce((sum, one) => sum + one, 0) / own.length;
    return own.reduce((sum, one) => sum + (one - mean) ** 2, 0);
  });
  return costs.reduce((sum, one) => sum + one, 0) + 4 * Math.log(values.length) * (starts.length - 1);
}

describe('levels of least cost', () => {
  it('cost what the best of all partitions costs', () => {
    const values = fc.array(fc.integer({ min: 0, max: 30 }), { minLength: 4, maxLength: 12 });
    fc.assert(
      fc.property(values, fc.integer({ min: 1, max: 4 }), fc.integer({ min: 1, max: 4 }), (all, noise, shortest) => {
        fc.pre(all.length >= 2 * shortest);
        const found = optimalStarts(all, noise, shortest);
        const best = slow(all, noise, shortest);
        expect(totalOf(all, noise, found)).to.be.closeTo(best.total, 1e-6);
        expect(found.every((from, i) => (found[i + 1] ?? all.length) - from >= shortest)).to.equal(true);
      })
    );
  });

  it('are one level where there are too few values, or none is worth its cost', () => {
    expect([optimalStarts([1, 9, 9], 1, 2), optimalStarts([1, 2, 1, 2, 1, 2], 1, 2)]).to.deep.equal([[0], [0]]);
    expect(optimalStarts([1, 1, 1, 9, 9, 9], 1, 2)).to.deep.equal([0, 3]);
  });
});
