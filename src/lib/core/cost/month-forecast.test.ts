import { expect } from 'chai';
import fc from 'fast-check';
import { chanceOf } from '../../../../tests/support/chance';
import { monthForecast } from './month-forecast';

/** Days before this month, days of it, and days that are left. */
const [before, monthDays, left] = [31, 12, 18];

function made(index: number): { past: number[]; whole: number } {
  const { normal, between } = chanceOf(index * 104_729 + 3);
  const level = between(20, 400);
  const noise = level * between(0.02, 0.15);
  const weekend = index % 2 === 0 ? -level * between(0.1, 0.4) : 0;
  const all = Array.from({ length: before + monthDays + left }, (_, day) => {
    const raised = index % 5 === 0 && day >= 20 ? level * 0.8 : 0;
    return level + raised + (day % 7 >= 5 ? weekend : 0) + noise * normal();
  });
  return {
    past: all.slice(0, before + monthDays),
    whole: all.slice(before).reduce((sum, one) => sum + one, 0)
  };
}

describe('the forecast of a month', () => {
  it('has an interval in which 80 of 100 months end, five more or fewer, of 400 with known ends', () => {
    let inside = 0;
    for (let index = 0; index < 400; index++) {
      const { past, whole } = made(index);
      const found = monthForecast(past, monthDays, left);
      if (found !== null && whole >= found.low && whole <= found.high) inside++;
    }
    expect(inside / 400).to.be.within(0.75, 0.85);
  });

  it('is what is over when nothing is left, and goes by the level of now', () => {
    expect(monthForecast([10, 10, 10, 10], 4, 0)).to.deep.equal({ soFar: 40, expected: 40, low: 40, high: 40 });
    const doubled = [...Array<number>(20).fill(10), ...Array<number>(5).fill(20)];
    expect(monthForecast(doubled, 5, 25)).to.deep.equal({ soFar: 100, expected: 600, low: 600, high: 600 });
  });

  it('passes over gaps, and says nothing of too few days', () => {
    expect(monthForecast([10, NaN, 10, 10], 4, 1)?.soFar).to.equal(30);
    expect([monthForecast([], 0, 30), monthForecast([5, NaN, 5], 3, 28)]).to.deep.equal([null, null]);
  });

  it('grows with the unit, whatever the amounts', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 100 }), fc.double({ min: 0.01, max: 100, noNaN: true }), (index, scale) => {
        const { past } = made(index);
        const [one, other] = [past, past.map((value) => value * scale)].map((of) => monthForecast(of, monthDays, left));
        for (const key of ['soFar', 'expected', 'low', 'high'] as const)
          expect(other?.[key]).to.be.closeTo(
            (one?.[key] ?? NaN) * scale,
            1e-6 * Math.abs((one?.expected ?? 1) * scale)
          );
      })
    );
  });
});
