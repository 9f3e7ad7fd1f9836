import { expect } from 'chai';
import type { QueryAnswer } from '$lib/core/series';
import { tableOf } from './as-table';

describe('an answer as a table for a spreadsheet', () => {
  const answer = (series: { name: string; values: (number | null)[] | Float64Array }[]) =>
    ({ start: Date.parse('2026-05-04T08:00:00Z'), step: 60_000, count: 2, series }) as never as QueryAnswer;

  it('has a column for each series and a row for each cell, gaps empty, however the values came', () => {
    const lines = (values: (number | null)[] | Float64Array) =>
      tableOf(answer([{ name: 'a', values }]), 'UTC').split('\n');
    const [head, first, second] = lines([1.5, null]);
    expect(head).to.equal('time\ta');
    expect(first).to.match(/08:00.*\t1\.5$/);
    expect(second).to.match(/08:01.*\t$/);
    expect(lines(Float64Array.of(1.5, NaN))).to.deep.equal([head, first, second]);
  });
});
