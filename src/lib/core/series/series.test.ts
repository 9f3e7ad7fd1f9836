import { expect } from 'chai';
import fc from 'fast-check';
import { columnsOf, point, type Point } from '../../../../tests/support/points';
import { duration, gridOver, instant, type Instant } from '../time';
import {
  alignSeries,
  cannotGive,
  isOfGrowth,
  needsReadings,
  noPoints,
  quantileOf,
  statistics,
  summarise,
  valuesOf,
  type Statistic
} from './index';

/** Slow and obvious: filters the whole series for every cell. Sums of whole numbers, so that it is exact. */
function slowCell(points: readonly Point[], from: number, to: number, statistic: Statistic): number {
  const within = points.filter(({ at }) => at >= from && at < to).sort((a, b) => a.at - b.at);
  if (within.length === 0) return NaN;
  const total = (name: 'sum' | 'count') => within.reduce((sum, one) => sum + one[name], 0);
  const last = within.at(-1) as Point;
  const found: Partial<Record<Statistic, number>> = {
    avg: total('sum') / total('count'),
    sum: total('sum'),
    count: total('count'),
    min: Math.min(...within.map(({ min }) => min)),
    max: Math.max(...within.map(({ max }) => max)),
    last: last.sum / last.count
  };
  return found[statistic] as number;
}

/** Statistics that summaries give too. */
const ofSummaries = statistics.filter((statistic) => !needsReadings(statistic) && !isOfGrowth(statistic));

describe('aligning a series', () => {
  it('agrees with the slow reference for every statistic, range and step', () => {
    fc.assert(
      fc.property(
        fc.array(point, { maxLength: 60 }),
        fc.nat(900),
        fc.nat(400),
        fc.integer({ min: 1, max: 300 }),
        fc.constantFrom(...ofSummaries),
        (points, from, length, step, statistic) => {
          const columns = columnsOf(points);
          const kept = [...columns.at].map((at, i): Point => ({
            at,
            sum: columns.sum[i]!,
            count: columns.count[i]!,
            min: columns.min[i]!,
            max: columns.max[i]!
          }));
          const grid = gridOver({ from: from as Instant, to: (from + length) as Instant }, duration(step));
          const expected = Array.from({ length: grid.count }, (_, cell) =>
            slowCell(kept, grid.start + cell * step, grid.start + (cell + 1) * step, statistic)
          );
          expect([...alignSeries(columns, grid, statistic)]).to.deep.equal(expected);
        }
      )
    );
  });

  it('has the example of its documentation', () => {
    const columns = columnsOf([
      { at: 0, sum: 10, count: 1, min: 10, max: 10 },
      { at: 60_000, sum: 30, count: 2, min: 12, max: 18 }
    ]);
    const grid = gridOver({ from: instant(0), to: instant(120_000) }, duration(120_000));
    expect([...alignSeries(columns, grid, 'avg')]).to.deep.equal([40 / 3]);
  });

  it('a cell with no samples is a gap, also for sum and count', () => {
    const grid = gridOver({ from: instant(0), to: instant(180_000) }, duration(60_000));
    for (const statistic of statistics)
      expect([...alignSeries(noPoints(), grid, statistic)]).to.deep.equal([NaN, NaN, NaN]);
  });

  it('an average of unequal counts is no average of averages', () => {
    const columns = columnsOf([
      { at: 0, sum: 100, count: 1, min: 100, max: 100 },
      { at: 1, sum: 0, count: 99, min: 0, max: 0 }
    ]);
    expect([
      ...alignSeries(columns, gridOver({ from: instant(0), to: instant(60) }, duration(60)), 'avg')
    ]).to.deep.equal([1]);
  });

  it('keeps a tiny spread on a large offset', () => {
    const values = [1e15, 0.1, 0.2, 0.3, -1e15];
    const columns = columnsOf(values.map((value, at) => ({ at, sum: value, count: 1, min: value, max: value })));
    const [sum] = alignSeries(columns, gridOver({ from: instant(0), to: instant(60) }, duration(60)), 'sum');
    expect(sum).to.be.closeTo(0.6, 1e-15);
  });

  /** Readings one millisecond apart, and one cell around all of them. */
  const one = (values: readonly number[], statistic: Statistic): number =>
    alignSeries(
      columnsOf(values.map((value, at) => ({ at, sum: value, count: 1, min: value, max: value }))),
      gridOver({ from: instant(0), to: instant(values.length) }, duration(values.length)),
      statistic
    )[0] as number;

  it('a percentile has the right share of readings on either side, whatever their order', () => {
    const percentiles = statistics.filter((statistic) => quantileOf(statistic) !== undefined);
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: -1000, max: 1000 }), { minLength: 1, maxLength: 50 }),
        fc.constantFrom(...percentiles),
        (values, statistic) => {
          const share = quantileOf(statistic)!;
          const found = one(values, statistic);
          // Slow and obvious: walk the sorted readings and interpolate where the share falls.
          const sorted = values.toSorted((a, b) => a - b);
          let expected = sorted.at(-1)!;
          for (let i = 0; i + 1 < sorted.length; i++) {
            const [here, there] = [i / (sorted.length - 1), (i + 1) / (sorted.length - 1)];
            if (share >= here && share <= there) {
              expected = sorted[i]! + ((share - here) / (there - here)) * (sorted[i + 1]! - sorted[i]!);
              break;
            }
          }
          expect(found).to.be.closeTo(expected, 1e-9);
        }
      )
    );
  });

  it('a percentile of equal readings is exactly that reading, and of one reading itself', () => {
    for (const statistic of statistics.filter((name) => quantileOf(name) !== undefined)) {
      expect(one([0.1, 0.1, 0.1], statistic), statistic).to.equal(0.1);
      expect(one([7.3], statistic), statistic).to.equal(7.3);
    }
    expect(one([3, 1, 2], 'median')).to.equal(2);
    expect(one([4, 1, 2, 3], 'median')).to.equal(2.5);
  });

  it('the standard deviation agrees with exact arithmetic', () => {
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: -1_000_000, max: 1_000_000 }), { minLength: 2, maxLength: 60 }),
        fc.constantFrom(0, 1_000_000_000, 4_000_000_000_000),
        (values, offset) => {
          const [n, sum, squares] = values.reduce(
            ([count, total, square], value) => [count + 1n, total + BigInt(value), square + BigInt(value) ** 2n],
            [0n, 0n, 0n]
          );
          const exact = Math.sqrt(Number(n * squares - sum * sum) / Number(n * (n - 1n)));
          const found = one(
            values.map((value) => value + offset),
            'stddev'
          );
          expect(Math.abs(found - exact)).to.be.at.most(1e-9 * Math.max(1, exact));
        }
      )
    );
    expect(one([5], 'stddev'), 'of one reading').to.be.NaN;
    expect(one([0.1, 0.1, 0.1], 'stddev')).to.equal(0);
  });

  it('the standard deviation and the average of the NIST sets NumAcc1 to NumAcc4 are right to the digits that doubles can hold', () => {
    const alternating = (first: number, low: number, high: number, pairs: number) => [
      first,
      ...Array.from({ length: pairs }, () => [low, high]).flat()
    ];
    // Certified values: NIST Statistical Reference Datasets, univariate summary statistics.
    const sets: [number[], number, number, number][] = [
      [[10_000_001, 10_000_003, 10_000_002], 10_000_002, 1, 15],
      [alternating(1.2, 1.1, 1.3, 500), 1.2, 0.1, 14],
      [alternating(1_000_000.2, 1_000_000.1, 1_000_000.3, 500), 1_000_000.2, 0.1, 9],
      [alternating(10_000_000.2, 10_000_000.1, 10_000_000.3, 500), 10_000_000.2, 0.1, 8]
    ];
    for (const [values, mean, deviation, digits] of sets) {
      expect(one(values, 'avg')).to.be.closeTo(mean, mean * 1e-15);
      expect(one(values, 'stddev')).to.be.closeTo(deviation, deviation * 10 ** -digits);
    }
  });

  it('refuses what needs readings of points that stand for several', () => {
    const columns = columnsOf([{ at: 0, sum: 3, count: 2, min: 1, max: 2 }]);
    const grid = gridOver({ from: instant(0), to: instant(60) }, duration(60));
    for (const statistic of statistics) {
      const reduce = () => alignSeries(columns, grid, statistic);
      if (needsReadings(statistic)) expect(reduce, statistic).to.throw(RangeError, 'stands for 2 readings');
      else if (!isOfGrowth(statistic)) expect(reduce, statistic).not.to.throw();
      expect(cannotGive(statistic, 'summary', 'delta') !== null, statistic).to.equal(needsReadings(statistic));
      expect(cannotGive(statistic, 'single', 'cumulative'), statistic).to.equal(null);
      expect(cannotGive(statistic, 'single', 'gauge') !== null, statistic).to.equal(isOfGrowth(statistic));
    }
  });

  it('uses only the length it is given', () => {
    const columns = columnsOf([1, 2, 3].map((at) => ({ at, sum: at, count: 1, min: at, max: at })));
    expect([
      ...alignSeries(columns, gridOver({ from: instant(0), to: instant(60) }, duration(60)), 'max', 2)
    ]).to.deep.equal([2]);
  });
});

describe('the figures of a legend', () => {
  it('leave gaps out', () => {
    expect(summarise(Float64Array.of(NaN, 1, NaN, 3, NaN))).to.deep.equal({
      min: 1,
      max: 3,
      avg: 2,
      last: 3,
      missing: 3
    });
    expect(summarise([NaN])).to.deep.equal({ min: NaN, max: NaN, avg: NaN, last: NaN, missing: 1 });
  });

  it('null in an answer is a gap', () => {
    expect([...valuesOf({ values: [1, null, 0] })]).to.deep.equal([1, NaN, 0]);
  });
});
