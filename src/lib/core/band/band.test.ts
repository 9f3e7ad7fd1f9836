import { expect } from 'chai';
import fc from 'fast-check';
import { quantileSorted } from 'simple-statistics';
import { labelledSeries, randomFrom } from '../../../../bench/band-series';
import { day, hour, instant, minute, range, times, type Grid } from '../time';
import { bandCells, bandEdge, fitBand, restored, transformed, type BandModel, type Transform } from './index';
import { Scratch, SortedWindow } from './order';
import { slotMedians } from './seasons';

/** A Monday. */
const start = instant(Date.UTC(2026, 0, 5));
const step = times(5, minute);
const gridOf = (days: number): Grid => ({ start, step, count: days * 288 });
const noise = (seed: number) => {
  const random = randomFrom(seed);
  return () => random() + random() + random() + random() - 2;
};

function series(days: number, valueAt: (ofDay: number, dayNumber: number, stray: number) => number, seed = 1) {
  const stray = noise(seed);
  return Float64Array.from({ length: days * 288 }, (_, i) => valueAt((i % 288) / 288, Math.floor(i / 288), stray()));
}
const daily = (ofDay: number) => 100 + 40 * Math.sin(2 * Math.PI * ofDay);
const fitted = (values: Float64Array, options = {}): BandModel => {
  const model = fitBand(values, { start, step, count: values.length }, options);
  if (model === null) throw new Error('no model');
  return model;
};
/** The edges of the band over the last day of some values. */
function lastDay(values: Float64Array, model: BandModel, widths: number): Float64Array {
  const grid = { start, step, count: values.length };
  return bandEdge(
    bandCells(values, grid, values.length - 288, () => model),
    widths
  );
}

describe('an anomaly band', () => {
  it('finds the seasons that are there, and none that are not', () => {
    expect(fitted(series(28, (ofDay, _, stray) => daily(ofDay) + 4 * stray)).season).to.equal('day');
    expect(fitted(series(28, (_ofDay, _, stray) => 100 + 4 * stray)).season).to.equal('none');
    const weekly = series(28, (ofDay, number, stray) => daily(ofDay) * (number % 7 >= 5 ? 0.5 : 1) + 4 * stray);
    expect(fitted(weekly).season).to.equal('week');
  });

  it('falls back while it is young, and says how much history it used', () => {
    const grown = (days: number) =>
      fitted(series(days, (ofDay, number, stray) => daily(ofDay) * (number % 7 >= 5 ? 0.5 : 1) + 4 * stray));
    expect([grown(2), grown(8), grown(20)].map(({ season, days }) => [season, days])).to.deep.equal([
      ['none', 2],
      ['day', 8],
      ['week', 20]
    ]);
    expect(fitBand(series(1, daily).subarray(0, 100), { ...gridOf(1), count: 100 })).to.equal(null);
    expect(fitBand(new Float64Array(0), { ...gridOf(1), count: 0 })).to.equal(null);
  });

  it('holds what it was learned from, and lies close around it', () => {
    const values = series(28, (ofDay, _, stray) => daily(ofDay) + 4 * stray);
    const model = fitted(values);
    const [low, high] = [lastDay(values, model, -5), lastDay(values, model, 5)];
    const last = values.subarray(27 * 288);
    expect(last.every((value, i) => value > low[i]! && value < high[i]!)).to.equal(true);
    expect(Math.max(...high.map((value, i) => value - low[i]!))).to.be.below(60);
  });

  it('is not moved by outliers and gaps of the past', () => {
    const clean = series(28, (ofDay, _, stray) => daily(ofDay) + 4 * stray);
    const dirty = Float64Array.from(clean);
    const random = randomFrom(9);
    for (let n = 0; n < 80; n++) dirty[Math.floor(random() * 27 * 288)] = 5000;
    dirty.fill(NaN, 2000, 2200);
    const edges = (values: Float64Array) => lastDay(clean, fitted(values, { transform: { kind: 'none' } }), 5);
    const [one, other] = [edges(clean), edges(dirty)];
    for (const [i, value] of one.entries()) expect(Math.abs(value - other[i]!)).to.be.below(6);
  });

  it('follows a shift of the level within a day, and a slow trend all the time', () => {
    const shifted = series(28, (ofDay, number, stray) => daily(ofDay) + 4 * stray + (number >= 26 ? 80 : 0));
    const model = fitted(shifted.subarray(0, 26 * 288));
    const [low, high] = [lastDay(shifted, model, -5), lastDay(shifted, model, 5)];
    const last = shifted.subarray(27 * 288);
    expect(last.filter((value, i) => value < low[i]! || value > high[i]!)).to.have.length(0);
    const rising = series(28, (ofDay, number, stray) => daily(ofDay) + 4 * stray + 3 * (number + ofDay));
    const [under, over] = [-5, 5].map((widths) => lastDay(rising, fitted(rising.subarray(0, 27 * 288)), widths));
    const now = rising.subarray(27 * 288);
    expect(now.filter((value, i) => value < under![i]! || value > over![i]!)).to.have.length(0);
  });

  it('leaves marked spans out of what it learns', () => {
    const values = series(10, (ofDay, number, stray) => (number >= 3 && number < 9 ? 400 : daily(ofDay)) + 4 * stray);
    const marked = range(instant(start + 3 * day), instant(start + 9 * day));
    const profile = (options: object) => fitted(values, { transform: { kind: 'none' }, ...options }).day;
    const swing = (of: Float64Array) => (of.length === 0 ? 0 : Math.max(...of) - Math.min(...of));
    expect(swing(profile({ exclude: [marked] }))).to.be.above(60);
    expect(swing(profile({}))).to.be.below(30);
  });

  it('is uneven where values are: wider upwards for what grows by factors, and never beyond the bounds of a share', () => {
    const random = noise(4);
    const skewed = Float64Array.from({ length: 28 * 288 }, (_, i) =>
      Math.exp(3 + Math.sin((2 * Math.PI * i) / 288) + 0.4 * random())
    );
    const model = fitted(skewed);
    expect(model.transform.kind).to.equal('log');
    const [low, middle, high] = [-5, 0, 5].map((widths) => lastDay(skewed, model, widths)[0]!);
    expect(high! - middle!).to.be.above(1.5 * (middle! - low!));
    const share = Float64Array.from({ length: 28 * 288 }, () => Math.min(100, 99.5 + 0.2 * random()));
    const ofShare = fitted(share, { bounds: [0, 100] });
    expect(ofShare.transform.kind).to.equal('share');
    for (const edge of lastDay(share, ofShare, 20)) expect(edge).to.be.at.most(100);
  });

  it('of cells that do not fit into a day knows no season, and of long ones one that is coarse', () => {
    const of = (hours: number) => {
      const length = times(hours, hour);
      const count = Math.floor((28 * 24) / hours);
      const stray = noise(8);
      const values = Float64Array.from({ length: count }, (_, i) => daily(((i * hours) % 24) / 24) + 3 * stray());
      return fitBand(values, { start, step: length, count });
    };
    expect([of(7)?.season, of(5)?.season]).to.deep.equal(['none', 'none']);
    expect([of(1)?.season, of(6)?.season]).to.deep.equal(['day', 'day']);
    for (const hours of [1, 2, 5, 6, 7, 12])
      for (const width of of(hours)?.above ?? [NaN]) expect(width, `${hours} h`).to.be.above(0);
  });

  it('has a least width: what never strays is not condemned for straying a little', () => {
    const model = fitted(series(28, () => 100));
    const [edge] = lastDay(
      series(28, () => 100),
      model,
      5
    );
    expect(edge).to.be.within(101, 105);
  });

  it('is the same whatever pieces it is drawn in', () => {
    const { values, grid } = labelledSeries(4, 3);
    const model = fitBand(values.subarray(0, 28 * 288), { ...grid, count: 28 * 288 })!;
    const drawn = (from: number, to: number) => {
      const lead = from - 2 * 288;
      const part = { start: instant(grid.start + lead * step), step, count: to - lead };
      return bandEdge(
        bandCells(values.subarray(lead, to), part, from - lead, () => model),
        4
      );
    };
    const whole = drawn(29 * 288, 31 * 288);
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 550 }), fc.integer({ min: 1, max: 26 }), (at, length) => {
        const piece = drawn(29 * 288 + at, 29 * 288 + at + length);
        expect([...piece]).to.deep.equal([...whole.subarray(at, at + length)]);
      }),
      { numRuns: 40 }
    );
  });
});

describe('what bands are made of', () => {
  it('transforms give back what they were given', () => {
    const all: Transform[] = [
      { kind: 'none' },
      { kind: 'root' },
      { kind: 'log', offset: 2 },
      { kind: 'share', low: 0, high: 100 }
    ];
    fc.assert(
      fc.property(fc.double({ min: 0.1, max: 99.9, noNaN: true }), fc.constantFrom(...all), (value, transform) => {
        expect(restored(transform, transformed(transform, value))).to.be.closeTo(value, 1e-9);
      })
    );
    expect(restored(all[3]!, transformed(all[3]!, 100))).to.equal(100);
  });

  it('quantiles are those of a sort, for few numbers and many', () => {
    fc.assert(
      fc.property(
        fc.array(fc.double({ noNaN: true, noDefaultInfinity: true, min: -1e6, max: 1e6 }), {
          minLength: 1,
          maxLength: 200
        }),
        (numbers) => {
          const scratch = new Scratch(4);
          for (const number of [...numbers, NaN]) scratch.add(number);
          const sorted = [...numbers].sort((a, b) => a - b);
          expect(scratch.count).to.equal(numbers.length);
          expect(scratch.quantile(0)).to.equal(sorted[0]);
          expect(scratch.quantile(1)).to.equal(sorted.at(-1));
          if (numbers.length % 2 === 1) expect(scratch.median()).to.be.closeTo(quantileSorted(sorted, 0.5), 1e-6);
        }
      )
    );
  });

  it('slots of five cells, as of others, have the median of those that are there', () => {
    const cell = fc.oneof({ weight: 9, arbitrary: fc.integer({ min: -9, max: 9 }) }, fc.constant(NaN));
    fc.assert(
      fc.property(fc.array(cell, { minLength: 1, maxLength: 60 }), fc.integer({ min: 1, max: 12 }), (cells, each) => {
        const grid = { start: instant(0), step: minute, count: cells.length };
        const { values } = slotMedians(Float64Array.from(cells), grid, times(each, minute));
        for (const [s, value] of values.entries()) {
          const known = cells.slice(s * each, (s + 1) * each).filter((one) => !Number.isNaN(one));
          expect(value + 0).to.deep.equal(known.length === 0 ? NaN : medianOf(known) + 0);
        }
      })
    );
  });

  it('medians are found by selection as by a sort, also of numbers that repeat', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: -5, max: 40 }), { minLength: 1, maxLength: 300 }), (numbers) => {
        const scratch = new Scratch(4);
        for (const number of numbers) scratch.add(number);
        expect(scratch.median()).to.equal(medianOf(numbers));
        expect(scratch.median(), 'once more').to.equal(medianOf(numbers));
      })
    );
  });

  it('a window of numbers stays in order while some come and others go, and gaps are neither', () => {
    const number = fc.oneof(fc.integer({ min: 0, max: 9 }), fc.constant(NaN));
    fc.assert(
      fc.property(fc.array(number, { maxLength: 60 }), (numbers) => {
        const window = new SortedWindow(6);
        for (const [i, value] of numbers.entries()) {
          if (i >= 6) window.remove(numbers[i - 6] as number);
          window.add(value);
          const known = numbers.slice(Math.max(0, i - 5), i + 1).filter((one) => !Number.isNaN(one));
          expect(window.count).to.equal(known.length);
          expect(window.median()).to.deep.equal(known.length === 0 ? NaN : medianOf(known));
        }
      })
    );
  });

  const medianOf = (numbers: readonly number[]): number => {
    const sorted = [...numbers].sort((a, b) => a - b);
    const middle = sorted.length >> 1;
    const high = sorted[middle] as number;
    return sorted.length % 2 === 1 ? high : ((sorted[middle - 1] as number) + high) / 2;
  };
});
