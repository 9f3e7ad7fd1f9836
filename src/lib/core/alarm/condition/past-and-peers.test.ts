import { expect } from 'chai';
import fc from 'fast-check';
import { rSquared, linearRegression, medianAbsoluteDeviation, median } from 'simple-statistics';
import { day, hour, instant, minute, type Duration, type Grid } from '../../time';
import { trendOf } from '../../series';
import { cellCode, codesOf, compareWith } from './index';

const gridOf = (count: number, step: Duration = minute, start = 0): Grid => ({ start: instant(start), step, count });
const { met, well, missing } = cellCode;

describe('peers', () => {
  it('one bad machine of forty is found without a threshold, and none of forty alike', () => {
    const count = 3;
    const columns = Array.from({ length: 40 }, (_, of) =>
      Float64Array.from({ length: count }, (_, i) => 40 + ((of * 7 + i * 3) % 10) / 5 + (of === 17 && i > 0 ? 25 : 0))
    );
    const all = compareWith({ kind: 'rank', is: 'outside', by: 6 }, { grid: gridOf(count), columns, zone: 'UTC' });
    const found = all.flatMap((comparison, of) =>
      [...codesOf(comparison, 0, count)].flatMap((code, i) => (code === met ? [[of, i]] : []))
    );
    expect(found).to.deep.equal([
      [17, 1],
      [17, 2]
    ]);
  });

  it('bounds are the median and so many scaled deviations, as simple-statistics has them', () => {
    fc.assert(
      fc.property(fc.array(fc.double({ min: 50, max: 500, noNaN: true }), { minLength: 4, maxLength: 40 }), (now) => {
        const columns = now.map((value) => Float64Array.of(value));
        const [comparison] = compareWith(
          { kind: 'rank', is: 'above', by: 4 },
          { grid: gridOf(1), columns, zone: 'UTC' }
        );
        const middle = median(now);
        const spread = Math.max(1.4826 * medianAbsoluteDeviation(now), 0.01 * middle);
        expect((comparison!.high as Float64Array)[0]).to.be.closeTo(middle + 4 * spread, 1e-6);
      })
    );
  });

  it('three are too few', () => {
    const columns = [1, 1, 100].map((value) => Float64Array.of(value));
    const all = compareWith({ kind: 'rank', is: 'above', by: 4 }, { grid: gridOf(1), columns, zone: 'UTC' });
    expect(all.flatMap((comparison) => [...codesOf(comparison, 0, 1)])).to.deep.equal([missing, missing, missing]);
  });
});

describe('forecasts', () => {
  const forecast = { kind: 'forecast', is: 'above', limit: 100, within: 'P4D', from: 'P2D' } as const;
  /** A level that rises so much an hour, over three days of minutes. */
  function filling(perHour: number, wobble = 0): number[] {
    const columns = (grid: Grid) =>
      Float64Array.from({ length: grid.count }, (_, i) => {
        const at = grid.start + (i + 0.5) * grid.step;
        return 60 + (perHour * at) / hour + wobble * Math.sin(at / 7e6);
      });
    const grid = gridOf(10, minute, 3 * day);
    const history = gridOf(72, hour);
    const [comparison] = compareWith(forecast, {
      grid,
      columns: [columns(grid)],
      history: { grid: history, columns: [columns(history)] },
      zone: 'UTC'
    });
    return [...codesOf(comparison!, 0, grid.count)];
  }

  it('a disk that will be full in four days is found, one that will not be is not', () => {
    expect(new Set(filling(0.2))).to.deep.equal(new Set([well])); // 74 now, 94 in four days
    expect(new Set(filling(0.3))).to.deep.equal(new Set([met])); // 82 now, 110 in four days
    expect(new Set(filling(0, 8))).to.deep.equal(new Set([well]));
  });

  it('without enough history nobody can tell', () => {
    const [comparison] = compareWith(forecast, {
      grid: gridOf(3),
      columns: [Float64Array.of(1, 2, 3)],
      history: { grid: gridOf(5, hour), columns: [Float64Array.of(1, 2, 3, 4, 5)] },
      zone: 'UTC'
    });
    expect([...codesOf(comparison!, 0, 3)]).to.deep.equal([missing, missing, missing]);
  });

  it('a trend is that of a straight line, and a few wild points do not bend it', () => {
    expect(trendOf([0, 1, 2, 3], [1, 3, 5, 7])).to.deep.equal({ level: 1, slope: 2, least: 2, most: 2 });
    const at = Array.from({ length: 40 }, (_, i) => i);
    const values = at.map((x) => 3 + 0.5 * x);
    const { m } = linearRegression(at.map((x, i) => [x, values[i]!]));
    const wild = values.map((value, i) => (i % 8 === 0 ? 500 : value));
    expect(trendOf(at, wild)?.slope).to.be.closeTo(m, 0.05);
    expect(
      rSquared(
        at.map((x, i) => [x, wild[i]!]),
        (x) => 3 + m * x
      ),
      'least squares do not fit it'
    ).to.be.below(0.1);
  });

  it('its interval holds the slope of noise about nine times in ten', () => {
    let held = 0;
    const runs = 400;
    let random = 12345;
    const next = () => (random = (random * 1_103_515_245 + 12_345) % 2_147_483_648) / 2_147_483_648;
    for (let run = 0; run < runs; run++) {
      const at = Array.from({ length: 30 }, (_, i) => i);
      const trend = trendOf(
        at,
        at.map((x) => 0.1 * x + next() + next() + next())
      )!;
      if (trend.least <= 0.1 && trend.most >= 0.1) held++;
    }
    expect(held / runs).to.be.within(0.85, 0.97);
  });
});
