import { expect } from 'chai';
import fc from 'fast-check';
import { growthOf, leastCells, reachedWhen } from './growth';

/** Numbers that look like chance, from a seed: uniform in [0, 1). */
function chance(seed: number): () => number {
  let state = seed >>> 0;
  return () => {
    state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0;
    return state / 2 ** 32;
  };
}
/** About normal, with mean 0 and deviation 1. */
const normal = (next: () => number): number => {
  let sum = 0;
  for (let i = 0; i < 12; i++) sum += next();
  return sum - 6;
};

describe('how a value goes on', () => {
  it('by its trend, straight where it was straight, and reaches a limit when it does', () => {
    const growth = growthOf(
      Float64Array.from({ length: 60 }, (_, day) => 100 + 2 * day),
      30
    );
    expect(growth?.expected[29]).to.be.closeTo(278, 1e-9);
    expect(growth?.high[29]).to.be.closeTo(278, 1e-9);
    expect(growth && reachedWhen(growth, 'above', 240)).to.deep.equal({ earliest: 11, expected: 11, latest: 11 });
    expect(growth && reachedWhen(growth, 'below', 100)).to.deep.equal({ earliest: null, expected: null, latest: null });
    expect(growth && reachedWhen(growth, 'above', 1000).expected).to.equal(null);
  });

  it('with what weekdays differ by, once there are weeks enough', () => {
    const values = Float64Array.from({ length: 70 }, (_, day) => 100 + day + (day % 7 === 6 ? -30 : 0));
    const growth = growthOf(values, 14);
    for (let day = 70; day < 84; day++)
      expect(growth?.expected[day - 70]).to.be.closeTo(100 + day + (day % 7 === 6 ? -30 : 0), 6);
  });

  it('is not bent by a few days that were unlike all others, nor by gaps', () => {
    const values = Float64Array.from({ length: 90 }, (_, day) => 50 + day);
    for (const day of [10, 40, 41, 88]) values[day] = 5000;
    for (const day of [3, 20, 21, 22, 60]) values[day] = NaN;
    const growth = growthOf(values, 10);
    expect(growth?.expected[9]).to.be.closeTo(149, 1);
    expect(growth?.slope).to.be.closeTo(1, 0.02);
  });

  it('is not sure of itself where no earlier forecast could be tried', () => {
    const next = chance(5);
    const values = Float64Array.from({ length: leastCells + 2 }, (_, day) => 100 + day + 5 * normal(next));
    const growth = growthOf(values, 90);
    const width = (cell: number) => (growth?.high[cell] ?? NaN) - (growth?.low[cell] ?? NaN);
    expect(width(0)).to.be.above(4);
    expect(width(89)).to.be.above(2 * width(0));
  });

  it('says nothing of too little', () => {
    expect(growthOf(new Float64Array(leastCells - 1).fill(1), 5)).to.equal(null);
    expect(growthOf(new Float64Array(100).fill(NaN), 5)).to.equal(null);
    expect(growthOf(new Float64Array(leastCells).fill(1), 5)?.expected[4]).to.equal(1);
  });

  it('has an interval that never narrows ahead and lies around what is expected, whatever the values', () => {
    fc.assert(
      fc.property(
        fc.array(fc.option(fc.double({ min: -1e6, max: 1e6, noNaN: true }), { freq: 6, nil: NaN }), { maxLength: 80 }),
        fc.integer({ min: 1, max: 120 }),
        (values, ahead) => {
          const growth = growthOf(Float64Array.from(values), ahead);
          if (growth === null) return;
          for (let cell = 0; cell < ahead; cell++) {
            const [low, expected, high] = [growth.low, growth.expected, growth.high].map((one) => one[cell] as number);
            expect(low).to.be.at.most(expected as number);
            expect(high).to.be.at.least(expected as number);
            if (cell > 0) {
              const before = (growth.high[cell - 1] as number) - (growth.low[cell - 1] as number);
              expect((high as number) - (low as number)).to.be.at.least(before - 1e-6 * Math.abs(before));
            }
          }
          const reached = reachedWhen(growth, 'above', growth.expected[0] as number);
          expect(reached.expected).to.equal(1);
          expect(reached.earliest ?? Infinity).to.be.at.most(reached.expected as number);
        }
      ),
      { numRuns: 200 }
    );
  });

  it('holds 80 of 100 days ahead, five more or fewer: growth with noise, and with weeks of their own', () => {
    const shares: Record<string, number> = {};
    for (const kind of ['noise', 'weeks'] as const) {
      let [held, all] = [0, 0];
      for (let series = 0; series < 100; series++) {
        const next = chance(series * 7919 + 17);
        const slope = (next() - 0.3) * 2;
        const noise = 1 + next() * 20;
        const weekly = kind === 'weeks' ? 30 * next() : 0;
        const course = Float64Array.from(
          { length: 400 + 30 },
          (_, day) => 500 + slope * day + noise * normal(next) + (day % 7 > 4 ? -weekly : 0)
        );
        const growth = growthOf(course.subarray(0, 400), 30);
        for (let day = 0; day < 30; day++) {
          const value = course[400 + day] as number;
          if (value >= (growth?.low[day] ?? NaN) && value <= (growth?.high[day] ?? NaN)) held++;
          all++;
        }
      }
      shares[kind] = held / all;
    }
    expect(shares['noise']).to.be.within(0.75, 0.85);
    expect(shares['weeks']).to.be.within(0.75, 0.85);
  }).timeout(180_000);
});
