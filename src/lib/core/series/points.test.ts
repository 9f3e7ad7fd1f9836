import { expect } from 'chai';
import fc from 'fast-check';
import { columnsOf, point, type Point } from '../../../../tests/support/points';
import { firstAtOrAfter, GrowingPoints, joinPoints, noPoints, ones, slicePoints, type SummaryPoints } from './index';

describe('points that grow', () => {
  it('hold what a map of instants would hold, whatever the order of writing', () => {
    fc.assert(
      fc.property(fc.array(fc.array(point, { maxLength: 20 }), { maxLength: 12 }), (batches) => {
        const growing = new GrowingPoints(2);
        const reference = new Map<number, Point>();
        for (const batch of batches) {
          const columns = columnsOf(batch);
          let changed = 0;
          for (const [i, at] of [...columns.at].entries()) {
            const next = {
              at,
              sum: columns.sum[i]!,
              count: columns.count[i]!,
              min: columns.min[i]!,
              max: columns.max[i]!
            };
            const known = reference.get(at);
            if (!known || JSON.stringify(known) !== JSON.stringify(next)) changed++;
            reference.set(at, next);
          }
          expect(growing.write(columns)).to.equal(changed);
        }
        const expected = [...reference.values()].sort((a, b) => a.at - b.at);
        const used = growing.used();
        for (const name of ['at', 'sum', 'count', 'min', 'max'] as const)
          expect([...used[name]], name).to.deep.equal(expected.map((one) => one[name]));
        expect([growing.length, growing.oldest, growing.newest]).to.deep.equal([
          expected.length,
          expected[0]?.at,
          expected.at(-1)?.at
        ]);
      })
    );
  });

  it('the first at or after is where a linear search finds it', () => {
    fc.assert(
      fc.property(fc.uniqueArray(fc.nat(100)), fc.nat(110), (instants, wanted) => {
        const at = Float64Array.from(instants.sort((a, b) => a - b));
        const linear = [...at].findIndex((value) => value >= wanted);
        expect(firstAtOrAfter(at, at.length, wanted)).to.equal(linear === -1 ? at.length : linear);
      })
    );
  });
});

describe('points one behind the other', () => {
  const names = ['at', 'sum', 'count', 'min', 'max'] as const;
  const rowsOf = (points: SummaryPoints) => names.map((name) => [...points[name]]);
  const single = (values: readonly number[], from: number): SummaryPoints => {
    const readings = Float64Array.from(values);
    const at = Float64Array.from(values, (_, i) => from + i);
    return { at, sum: readings, count: ones(values.length), min: readings, max: readings };
  };

  it('are what a slice of them joined again is, wherever they are cut', () => {
    fc.assert(
      fc.property(fc.uniqueArray(point, { selector: ({ at }) => at, maxLength: 30 }), fc.nat(1000), (list, cut) => {
        const whole = columnsOf(list);
        expect(rowsOf(joinPoints([slicePoints(whole, 0, cut), slicePoints(whole, cut, 1001)]))).to.deep.equal(
          rowsOf(whole)
        );
      })
    );
    expect(joinPoints([]).at).to.have.length(0);
  });

  it('go on sharing what single readings share, and only then', () => {
    const [one, other] = [single([1, 2, 3], 0), single([4, 5], 3)];
    const joined = joinPoints([slicePoints(one, 1, 9), other]);
    expect(rowsOf(joined)).to.deep.equal([
      [1, 2, 3, 4],
      [2, 3, 4, 5],
      [1, 1, 1, 1],
      [2, 3, 4, 5],
      [2, 3, 4, 5]
    ]);
    expect(joined.min === joined.sum && joined.max === joined.sum, 'shared').to.equal(true);
    expect(joined.count.buffer).to.equal(ones(1).buffer);
    const mixed = joinPoints([one, columnsOf([{ at: 9, sum: 8, count: 2, min: 3, max: 5 }])]);
    expect(rowsOf(mixed)).to.deep.equal([
      [0, 1, 2, 9],
      [1, 2, 3, 8],
      [1, 1, 1, 2],
      [1, 2, 3, 3],
      [1, 2, 3, 5]
    ]);
    expect(mixed.min === mixed.sum).to.equal(false);
    expect(rowsOf(joinPoints([noPoints(), one]))).to.deep.equal(rowsOf(one));
  });
});
