import { expect } from 'chai';
import fc from 'fast-check';
import { chanceOf } from '../../../../tests/support/chance';
import { levelChanges } from './level-changes';

interface Made {
  readonly values: number[];
  /** The first day of the new level; null where there is none. */
  readonly at: number | null;
}

/** Sixty days of a cost with weekdays, noise and here and there a spike; in every other one the level changes by three to ten times the noise. */
function made(index: number): Made {
  const { normal, between } = chanceOf(index * 7919 + 1);
  const level = between(20, 400);
  const noise = level * between(0.02, 0.12);
  const weekend = index % 3 === 0 ? -level * between(0.1, 0.3) : 0;
  const at = index % 2 === 0 ? Math.floor(between(8, 52)) : null;
  const jump = noise * between(3, 10) * (index % 4 === 0 ? 1 : -1);
  const values = Array.from({ length: 60 }, (_, day) => {
    const spike = index % 5 === 0 && day === 30 && at !== null && Math.abs(at - 30) > 6 ? noise * 15 : 0;
    return level + (day % 7 >= 5 ? weekend : 0) + noise * normal() + spike + (at !== null && day >= at ? jump : 0);
  });
  return { values, at };
}

describe('changes of the level of a cost', () => {
  it('are found in 200 series with known answers: at least 0.9 precision and recall, to the day or the one beside it', () => {
    let [right, wrong, missed] = [0, 0, 0];
    for (let index = 0; index < 200; index++) {
      const { values, at } = made(index);
      const found = levelChanges(values);
      const hits = found.filter((one) => at !== null && Math.abs(one.at - at) <= 1);
      right += hits.length > 0 ? 1 : 0;
      wrong += found.length - Math.min(1, hits.length);
      missed += at !== null && hits.length === 0 ? 1 : 0;
    }
    expect(right / (right + wrong), 'precision').to.be.at.least(0.9);
    expect(right / (right + missed), 'recall').to.be.at.least(0.9);
  });

  it('say the levels on both sides', () => {
    const [change, ...others] = levelChanges([10, 10, 10, 10, 20, 20, 20, 20]);
    expect(others).to.deep.equal([]);
    expect(change).to.deep.include({ at: 4, before: 10, after: 20 });
    expect(change?.noise).to.be.closeTo(0.075, 0.001);
  });

  it('are none of what is flat, short, empty, or has one spike', () => {
    for (const values of [[], [5, 50], Array(30).fill(7), Array(30).fill(0), [1, 1, 1, 1, 90, 1, 1, 1, 1, 1, 1, 1]])
      expect(levelChanges(values as number[]), JSON.stringify(values)).to.deep.equal([]);
  });

  it('are told with the day once the new level has lasted for three, and not before', () => {
    const days = (of: number) => [...Array<number>(40).fill(86), ...Array<number>(of).fill(173)];
    expect([1, 2].flatMap((of) => levelChanges(days(of)))).to.deep.equal([]);
    for (const of of [3, 4, 10]) {
      const [change, ...others] = levelChanges(days(of));
      expect(others).to.deep.equal([]);
      expect(change, `${of} days`).to.deep.include({ at: 40, before: 86, after: 173 });
    }
  });

  it('pass over gaps, and name the day in what was given', () => {
    const values = [10, NaN, 10, 10, 10, NaN, NaN, 30, 30, 30, NaN, 30];
    expect(levelChanges(values).map(({ at }) => at)).to.deep.equal([7]);
  });

  it('do not depend on the unit, nor on a constant that is added', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 150 }),
        fc.double({ min: 0.01, max: 1000, noNaN: true }),
        (index, scale) => {
          const { values } = made(index);
          const days = (of: readonly number[]) => levelChanges(of).map(({ at }) => at);
          expect(days(values.map((value) => value * scale))).to.deep.equal(days(values));
        }
      )
    );
  });
});
