import { expect } from 'chai';
import fc from 'fast-check';
import { duration, instant, type Grid } from '../time';
import { growSeries, pointsOfLength, type SummaryPoints } from './index';

const minute = 60_000;

function totals(at: readonly number[], values: readonly number[]): SummaryPoints {
  const points = pointsOfLength(at.length);
  at.forEach((when, i) => {
    points.at[i] = when;
    points.sum[i] = points.min[i] = points.max[i] = values[i] as number;
    points.count[i] = 1;
  });
  return points;
}
const gridOf = (start: number, step: number, count: number) => ({
  start: instant(start),
  step: duration(step),
  count
});

describe('growth of a series', () => {
  it('of a total is the differences; a drop began again from zero', () => {
    const points = totals([0, minute, 2 * minute, 3 * minute], [100, 160, 40, 100]);
    const grow = (statistic: 'rate' | 'increase') => [
      ...growSeries(points, gridOf(0, minute, 3), 'cumulative', minute, statistic)
    ];
    expect(grow('increase')).to.deep.equal([60, 40, 60]);
    expect(grow('rate')).to.deep.equal([1, 40 / 60, 1]);
  });

  it('of a delta is spread over its interval, also across the ends of cells and of the grid', () => {
    const points = totals([30_000, 90_000], [60, 120]);
    expect([...growSeries(points, gridOf(0, minute, 4), 'delta', minute, 'increase')]).to.deep.equal([30, 90, 60, NaN]);
    expect([...growSeries(points, gridOf(0, minute, 4), 'delta', minute, 'rate')]).to.deep.equal([1, 1.5, 2, NaN]);
    expect([...growSeries(points, gridOf(minute, minute, 1), 'delta', minute, 'increase')]).to.deep.equal([90]);
  });

  it('between samples far apart is a gap; it counts where the gap lies in one cell whole', () => {
    const points = totals([0, minute, 11 * minute, 12 * minute], [0, 10, 110, 120]);
    const grown = growSeries(points, gridOf(0, minute, 13), 'cumulative', minute, 'increase');
    expect([...grown].map((value) => (Number.isNaN(value) ? null : value))).to.deep.equal([
      10,
      null,
      ...Array.from({ length: 8 }, () => null),
      null,
      10,
      null
    ]);
    expect([...growSeries(points, gridOf(0, 15 * minute, 1), 'cumulative', minute, 'increase')]).to.deep.equal([120]);
  });

  it('one point, no points, all equal', () => {
    expect([...growSeries(totals([0], [5]), gridOf(0, minute, 2), 'cumulative', minute, 'rate')]).to.deep.equal([
      NaN,
      NaN
    ]);
    expect([...growSeries(totals([], []), gridOf(0, minute, 1), 'delta', minute, 'rate')]).to.deep.equal([NaN]);
    const flat = totals([0, minute, 2 * minute], [7, 7, 7]);
    expect([...growSeries(flat, gridOf(0, minute, 2), 'cumulative', minute, 'increase')]).to.deep.equal([0, 0]);
    expect(() => growSeries(flat, gridOf(0, minute, 1), 'delta', 0, 'rate')).to.throw(RangeError, 'got 60000 and 0');
  });

  it('agrees with a slow reference that goes second by second', () => {
    const sample = fc.record({ wait: fc.integer({ min: 1, max: 20 }), value: fc.nat(1000) });
    fc.assert(
      fc.property(
        fc.array(sample, { maxLength: 20 }),
        fc.constantFrom('delta' as const, 'cumulative' as const),
        fc.integer({ min: 1, max: 9 }),
        fc.nat(10),
        (samples, kind, step, start) => {
          const at: number[] = [];
          for (const { wait } of samples) at.push((at.at(-1) ?? 0) + wait);
          const points = totals(
            at.map((second) => second * 1000),
            samples.map(({ value }) => value)
          );
          const sampling = 4;
          // What grew in each second, and whether an ordinary interval covers it.
          const perSecond = new Map<number, number>();
          const note = (from: number, to: number, amount: number, keeps: (second: number) => boolean) => {
            for (let second = from; second < to; second++)
              if (keeps(second)) perSecond.set(second, (perSecond.get(second) ?? 0) + amount / (to - from));
          };
          const cellOf = (second: number) => Math.floor((second - start) / step);
          at.forEach((second, i) => {
            const value = samples[i]?.value ?? 0;
            if (kind === 'delta') note(second, Math.min(second + sampling, at[i + 1] ?? Infinity), value, () => true);
            else if (i > 0) {
              const [before, from] = [samples[i - 1]?.value ?? 0, at[i - 1] ?? 0];
              const long = second - from > 3 * sampling;
              note(
                from,
                second,
                value < before ? value : value - before,
                () => !long || cellOf(from) === cellOf(second - 1)
              );
            }
          });
          const grid = gridOf(start * 1000, step * 1000, 12);
          const [increase, rate] = (['increase', 'rate'] as const).map((statistic) =>
            growSeries(points, grid, kind, sampling * 1000, statistic)
          );
          for (let cell = 0; cell < 12; cell++) {
            const seconds = Array.from({ length: step }, (_, i) => start + cell * step + i).filter((one) =>
              perSecond.has(one)
            );
            const sum = seconds.reduce((all, one) => all + (perSecond.get(one) ?? 0), 0);
            if (seconds.length === 0) expect(increase?.[cell]).to.deep.equal(NaN);
            else {
              expect(increase?.[cell]).to.be.closeTo(sum, 1e-9);
              expect(rate?.[cell]).to.be.closeTo(sum / seconds.length, 1e-9);
            }
          }
        }
      ),
      { numRuns: 400 }
    );
  });
});

describe('changes that are stamped at their end', () => {
  const deltas = (at: number[], values: number[]) => {
    const columns = Float64Array.from(values);
    return { at: Float64Array.from(at), sum: columns, count: columns.map(() => 1), min: columns, max: columns };
  };
  const grid = (count: number, step = 60_000): Grid => ({ start: instant(0), step: duration(step), count });

  it('reach back to the one before, or by an interval when there is none', () => {
    const ten = 600_000;
    const points = deltas([ten, 2 * ten], [600, 1200]);
    expect([...growSeries(points, grid(20), 'delta', ten, 'rate', 'end')]).to.deep.equal([
      ...Array<number>(10).fill(1),
      ...Array<number>(10).fill(2)
    ]);
  });

  it('do not reach across a gap', () => {
    const points = deltas([60_000, 600_000], [6, 60]);
    const rates = [...growSeries(points, grid(10), 'delta', 60_000, 'rate', 'end')];
    expect(rates).to.deep.equal([0.1, ...Array<number>(8).fill(NaN), 1]);
  });

  it('give what the same changes stamped at their start give', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 0, max: 1000 }), { minLength: 1, maxLength: 20 }), (values) => {
        const starts = deltas(
          values.map((_, i) => i * 60_000),
          values
        );
        const ends = { ...starts, at: starts.at.map((at) => at + 60_000) };
        const on = grid(24, 90_000);
        expect([...growSeries(ends, on, 'delta', 60_000, 'increase', 'end')]).to.deep.equal([
          ...growSeries(starts, on, 'delta', 60_000, 'increase')
        ]);
      })
    );
  });
});
