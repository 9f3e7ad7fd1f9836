import { expect } from 'chai';
import fc from 'fast-check';
import { day, duration, hour, minute, times } from '../time';
import { burnLevels, burnRate, CountSums, errorBudget, periodsLeft } from './index';

const cell = fc.record({
  all: fc.oneof(fc.integer({ min: 0, max: 1000 }), fc.constant(NaN)),
  good: fc.oneof(fc.integer({ min: 0, max: 1100 }), fc.constant(NaN)),
  isLeftOut: fc.boolean()
});

describe('an objective', () => {
  it('counts as a slow reference does, with gaps, maintenance and spans beyond the ends', () => {
    fc.assert(
      fc.property(
        fc.array(cell, { maxLength: 40 }),
        fc.integer({ min: -5, max: 45 }),
        fc.integer({ min: -5, max: 45 }),
        (cells, from, to) => {
          const sums = new CountSums(
            cells.map(({ good }) => good),
            cells.map(({ all }) => all),
            (index) => cells[index]?.isLeftOut === true
          );
          let [all, bad] = [0, 0];
          for (const [index, one] of cells.entries()) {
            if (index < from || index >= to || one.isLeftOut || !(one.all > 0) || Number.isNaN(one.good)) continue;
            all += one.all;
            bad += Math.max(0, one.all - one.good);
          }
          expect(sums.between(from, to)).to.deep.equal({ all, bad });
        }
      )
    );
  });

  it('has an error budget: what may be bad, and what is left of it', () => {
    const budget = errorBudget({ all: 1000, bad: 0.5 }, 0.999);
    expect(budget.allowed).to.be.closeTo(1, 1e-9);
    expect(budget.left).to.be.closeTo(0.5, 1e-9);
    expect(budget.share).to.equal(0.9995);
    expect(errorBudget({ all: 100, bad: 3 }, 0.99).left, 'overspent').to.be.closeTo(-2, 1e-9);
    expect(errorBudget({ all: 0, bad: 0 }, 0.99)).to.include({ share: null, left: null });
    for (const target of [0, 1, NaN, 2]) expect(() => errorBudget({ all: 1, bad: 0 }, target)).to.throw(RangeError);
  });

  it('at a burn rate of 1 has spent its budget just at the end of its period', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0.5, max: 0.9999, noNaN: true }),
        fc.integer({ min: 1, max: 1e6 }),
        (target, all) => {
          const counts = { all, bad: all * (1 - target) };
          expect(burnRate(counts, target)).to.be.closeTo(1, 1e-9);
          expect(errorBudget(counts, target).left).to.be.closeTo(0, 1e-9);
        }
      )
    );
    expect([periodsLeft(0.5, 2), periodsLeft(-0.1, 3), periodsLeft(0.5, 0)]).to.deep.equal([0.25, 0, null]);
    expect(burnRate({ all: 0, bad: 0 }, 0.9)).to.equal(null);
  });
});

describe('levels of an alarm on a budget', () => {
  it('are the published ones for thirty days, each using its share of the budget in its long span', () => {
    const levels = burnLevels(times(30, day), 0.999);
    expect(
      levels.map(({ severity, rate, long, short }) => [severity, Number(rate.toFixed(6)), long, short])
    ).to.deep.equal([
      ['critical', 14.4, hour, times(5, minute)],
      ['major', 6, times(6, hour), times(30, minute)],
      ['minor', 1, times(3, day), times(6, hour)]
    ]);
    for (const period of [1, 7, 28, 90].map((days) => times(days, day)))
      for (const [index, { rate, long }] of burnLevels(period, 0.999).entries())
        expect((rate * long) / period).to.be.closeTo([0.02, 0.05, 0.1][index] as number, 0.002);
  });

  it('leave out what cannot be: of a low target nothing is used fast', () => {
    expect(burnLevels(times(30, day), 0.8).map(({ severity }) => severity)).to.deep.equal(['minor']);
    expect(burnLevels(duration(3_600_000), 0.999).every(({ short }) => short >= minute)).to.equal(true);
  });
});
