import { expect } from 'chai';
import fc from 'fast-check';
import { gridOver, instant, minute, range, times } from '../time';
import { fieldStatistics, LineCells, type CountedGroup, type FieldStatistic } from './counted';

const grid = gridOver(range(instant(0), instant(4 * minute)), minute);

interface Counted {
  readonly at: number;
  readonly values: readonly string[];
  readonly number: number;
}

const line: fc.Arbitrary<Counted> = fc.record({
  at: fc.integer({ min: -60_000, max: 5 * minute }),
  values: fc.tuple(fc.constantFrom('a', 'b', ''), fc.constantFrom('x', 'y')),
  number: fc.oneof(fc.integer({ min: -1000, max: 1000 }), fc.constant(NaN))
});

/** Slow and obvious: sorts out the numbers of a cell and says what is made of them. */
function figure(numbers: readonly number[], statistic: FieldStatistic): number {
  const sorted = numbers.toSorted((a, b) => a - b);
  const sum = numbers.reduce((all, one) => all + one, 0);
  const share = { median: 0.5, p75: 0.75, p90: 0.9, p95: 0.95, p99: 0.99 } as const;
  if (numbers.length === 0) return NaN;
  if (statistic === 'sum') return sum;
  if (statistic === 'avg') return sum / numbers.length;
  if (statistic === 'min') return sorted[0] as number;
  if (statistic === 'max') return sorted.at(-1) as number;
  if (statistic === 'stddev') {
    const mean = sum / numbers.length;
    return Math.sqrt(numbers.reduce((all, one) => all + (one - mean) ** 2, 0) / (numbers.length - 1));
  }
  const place = share[statistic] * (sorted.length - 1);
  const [low, high] = [sorted[Math.floor(place)] as number, sorted[Math.ceil(place)] as number];
  return low + (high - low) * (place - Math.floor(place));
}

const keyOf = ({ values }: CountedGroup) => JSON.stringify(values);

describe('counting lines cell by cell', () => {
  it('agrees with a slow reference, whatever is taken of them', () => {
    fc.assert(
      fc.property(fc.array(line, { maxLength: 60 }), fc.constantFrom(null, ...fieldStatistics), (lines, statistic) => {
        const cells = new LineCells(grid, statistic, 100);
        for (const { at, values, number } of lines) cells.add(at, values, 1, number);
        const counted = lines.filter(
          ({ at, number }) => at >= 0 && at < 4 * minute && (statistic === null || !Number.isNaN(number))
        );
        const groups = cells.groups();
        expect(groups.map(keyOf).sort()).to.deep.equal(
          [...new Set(counted.map(({ values }) => JSON.stringify(values)))].sort()
        );
        for (const group of groups) {
          const own = counted.filter(({ values }) => JSON.stringify(values) === keyOf(group));
          expect(group.lines).to.equal(own.length);
          for (let cell = 0; cell < grid.count; cell++) {
            const here = own.filter(({ at }) => Math.floor(at / minute) === cell).map(({ number }) => number);
            const wanted = statistic === null ? here.length : figure(here, statistic);
            if (Number.isNaN(wanted)) expect(group.cells[cell], `cell ${cell}`).to.deep.equal(NaN);
            else expect(group.cells[cell], `cell ${cell}`).to.be.closeTo(wanted, 1e-9);
          }
        }
      }),
      { numRuns: 500 }
    );
  });

  it('puts the groups of the fewest lines together, so that the sum stays', () => {
    fc.assert(
      fc.property(fc.array(line, { maxLength: 60 }), fc.integer({ min: 1, max: 4 }), (lines, most) => {
        const cells = new LineCells(grid, 'sum', most);
        for (const { at, values, number } of lines) cells.add(at, values, 1, number);
        const groups = cells.groups();
        expect(groups.length).to.be.at.most(most + 1);
        const inside = lines.filter(({ at, number }) => at >= 0 && at < 4 * minute && !Number.isNaN(number));
        const sum = groups.reduce((all, group) => all + group.cells.reduce((sum, one) => sum + (one || 0), 0), 0);
        expect(sum).to.be.closeTo(
          inside.reduce((all, { number }) => all + number, 0),
          1e-9
        );
        expect(groups.reduce((all, group) => all + group.lines, 0)).to.equal(inside.length);
      })
    );
  });

  it('holds what it holds however long the grid and however many the values', () => {
    const long = gridOver(range(instant(0), instant(100_000 * minute)), minute);
    const cells = new LineCells(long, 'avg', 100);
    for (let index = 0; index < 500; index++) cells.add(times(index, minute), [`value ${index}`], 1, index);
    const groups = cells.groups();
    // 100,000 cells of five columns each: eight groups, and the rest together.
    expect(groups.length).to.equal(9);
    expect(groups.at(-1)?.values).to.equal(null);
    expect(groups.reduce((all, { lines }) => all + lines, 0)).to.equal(500);
  });
});
