import { expect } from 'chai';
import type { Limit } from '../schema';
import { limited } from './limit';
import type { Column, Table } from './table';

const column = (name: string, ...values: number[]): Column => ({
  labels: { resource: name },
  values: Float64Array.from(values),
  newest: 0,
  completeUntil: Infinity,
  seriesId: null
});
const table = (...columns: Column[]): Table => ({ columns, unit: '1', isRatio: false });
const namesOf = (of: Table, more: Partial<Limit>, complete = 9): string[] =>
  limited(of, { keep: 5, order: 'highest', by: 'last', rest: 'leave out', ...more }, () => complete).columns.map(
    ({ labels }) => labels['resource'] ?? labels['others'] ?? ''
  );

describe('the highest or lowest few', () => {
  const slow = column('slow', 1, 90, NaN);
  const quick = column('quick', 5, 6, 99);
  const absent = column('absent', NaN, NaN, NaN);

  it('are ranked by the newest complete cell, not by one in which slower sources have nothing yet', () => {
    expect(namesOf(table(quick, slow), { keep: 1 }, 2)).to.deep.equal(['slow']);
    expect(namesOf(table(quick, slow), { keep: 1 }, 3)).to.deep.equal(['quick']);
    expect(namesOf(table(slow, quick), { order: 'lowest' }, 2)).to.deep.equal(['quick', 'slow']);
  });

  it('are ranked by other figures over the complete cells of the range', () => {
    expect(namesOf(table(slow, quick), { by: 'max' }, 3)).to.deep.equal(['quick', 'slow']);
    expect(namesOf(table(slow, quick), { by: 'max' }, 2)).to.deep.equal(['slow', 'quick']);
    expect(namesOf(table(quick, slow), { by: 'avg' }, 3)).to.deep.equal(['slow', 'quick']);
    expect(namesOf(table(quick, slow), { by: 'min', order: 'lowest' }, 3)).to.deep.equal(['slow', 'quick']);
    expect(namesOf(table(slow, quick), { by: 'sum' }, 3)).to.deep.equal(['quick', 'slow']);
  });

  it('are each ranked by what is complete of it', () => {
    const half = column('half', 50, 60, 1);
    const ranked = limited(table(half, quick), { keep: 1, order: 'lowest', by: 'min', rest: 'leave out' }, (one) =>
      one === half ? 2 : 3
    );
    expect(ranked.columns.map(({ labels }) => labels['resource'])).to.deep.equal(['quick']);
  });

  it('come before those without any value, which keep their order; so all do where no cell is complete', () => {
    expect(namesOf(table(absent, slow, quick), { order: 'lowest' }, 2)).to.deep.equal(['quick', 'slow', 'absent']);
    expect(namesOf(table(slow, absent, quick), {}, 0)).to.deep.equal(['slow', 'absent', 'quick']);
  });

  it('leave the others out, or fold them into one that says how many', () => {
    const all = table(quick, slow, absent);
    expect(namesOf(all, { keep: 1 })).to.deep.equal(['quick']);
    expect(namesOf(all, { keep: 1, rest: 'sum' })).to.deep.equal(['quick', '2 others']);
    const [, others] = limited(all, { keep: 1, order: 'highest', by: 'last', rest: 'sum' }, () => 9).columns;
    expect([...(others?.values ?? [])]).to.deep.equal([1, 90, NaN]);
  });
});
