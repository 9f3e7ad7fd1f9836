import { expect } from 'chai';
import fc from 'fast-check';
import { mean, median, sampleStandardDeviation, sum } from 'simple-statistics';
import { duration, instant, type Grid } from '../time';
import { alignSeries, groupSeries, ones, type Statistic, type SummaryPoints } from './index';

/** All readings in one cell, a millisecond apart. */
function cellOf(values: readonly number[], statistic: Statistic): number {
  const grid: Grid = { start: instant(0), step: duration(Math.max(1, values.length)), count: 1 };
  return alignSeries(pointsOf(values), grid, statistic)[0] as number;
}

function pointsOf(values: readonly number[], first = 0): SummaryPoints {
  const readings = Float64Array.from(values);
  const at = Float64Array.from(values, (_, i) => first + i);
  return { at, sum: readings, count: ones(values.length), min: readings, max: readings };
}

/** Digits that agree with a certified value, as NIST counts them; 15 for all of a double. */
const agreeing = (value: number, certified: number): number =>
  value === certified ? 15 : -Math.log10(Math.abs(value - certified) / Math.abs(certified));

/** One value, then two others by turns: how NIST makes its hard sets. */
const byTurns = (first: number, one: number, other: number): number[] => [
  first,
  ...Array.from({ length: 1000 }, (_, i) => (i % 2 === 0 ? one : other))
];

/** The univariate sets of NIST's Statistical Reference Datasets that are hard to sum, with their certified mean and standard deviation, and the digits a double can have of each. */
const certified: readonly (readonly [string, readonly number[], number, number, number])[] = [
  ['NumAcc1', [10000001, 10000003, 10000002], 10000002, 1, 15],
  ['NumAcc2', byTurns(1.2, 1.1, 1.3), 1.2, 0.1, 14],
  ['NumAcc3', byTurns(1000000.2, 1000000.1, 1000000.3), 1000000.2, 0.1, 9],
  ['NumAcc4', byTurns(10000000.2, 10000000.1, 10000000.3), 10000000.2, 0.1, 8]
];

describe('statistics on certified data', () => {
  for (const [name, values, average, deviation, digits] of certified)
    it(`have the digits that can be had: ${name}`, () => {
      expect(agreeing(cellOf(values, 'avg'), average)).to.be.at.least(14);
      expect(agreeing(cellOf(values, 'stddev'), deviation)).to.be.at.least(digits);
      // Of many series as of one, however the readings are spread over them.
      const grid: Grid = { start: instant(0), step: duration(values.length), count: 1 };
      const parts = [0, 1, 2].map((part) => pointsOf(values.filter((_, i) => i % 3 === part)));
      expect(agreeing(groupSeries(parts, grid, 'avg')[0] as number, average)).to.be.at.least(14);
      expect(agreeing(groupSeries(parts, grid, 'stddev')[0] as number, deviation)).to.be.at.least(digits);
    });

  it('agree with an independent implementation, also far from zero, for one point and for equal ones', () => {
    const offset = fc.constantFrom(0, 1e6, -1e9, 1e12);
    const apart = fc.array(fc.integer({ min: -1000, max: 1000 }), { minLength: 1, maxLength: 60 });
    fc.assert(
      fc.property(offset, fc.oneof(apart, fc.constant([7, 7, 7, 7])), (base, list) => {
        const values = list.map((one) => base + one / 8);
        expect(cellOf(values, 'sum')).to.be.closeTo(sum(values), 1e-15 * Math.abs(sum(values)));
        expect(cellOf(values, 'avg')).to.be.closeTo(mean(values), 2e-16 * Math.abs(base) + 1e-13);
        expect(cellOf(values, 'median')).to.equal(median(values));
        expect([cellOf(values, 'min'), cellOf(values, 'max')]).to.deep.equal([
          Math.min(...values),
          Math.max(...values)
        ]);
        const spread = cellOf(values, 'stddev');
        if (values.length === 1) expect(spread).to.deep.equal(NaN);
        // Taken near zero, where nothing is lost: the spread does not depend on where the values lie.
        else expect(spread).to.be.closeTo(sampleStandardDeviation(list.map((one) => one / 8)), 1e-9);
      })
    );
  });
});
