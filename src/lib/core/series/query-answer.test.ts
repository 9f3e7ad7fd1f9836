import { expect } from 'chai';
import fc from 'fast-check';
import {
  hasGaps,
  unpacked,
  valuesOf,
  waitedFor,
  type AnswerSeries,
  type PackedAnswer,
  type QueryAnswer
} from './index';

describe('the values of an answer', () => {
  it('come out of their packed form as they went in, gaps and zeros below zero included', () => {
    fc.assert(
      fc.property(fc.array(fc.array(fc.double())), (lists) => {
        const pack = (list: readonly number[]) => Buffer.from(Float64Array.from(list).buffer).toString('base64');
        const answer = { step: 60_000, series: lists.map((list) => ({ values: pack(list) })) };
        const { series, step } = unpacked(answer as never);
        expect(series.map(({ values }) => values)).to.deep.equal(lists.map((list) => Float64Array.from(list)));
        expect(step).to.equal(60_000);
      })
    );
    const example = { series: [{ values: 'AAAAAAAA8D8AAAAAAAD4fw==' }] } as never as PackedAnswer;
    expect(unpacked(example).series[0]?.values).to.deep.equal(Float64Array.of(1, NaN));
  });

  it('are a column with NaN in gaps, whether they came as a list or as a column, which is not copied', () => {
    const of = (values: QueryAnswer['series'][number]['values']) => ({ values });
    expect(valuesOf(of([1, null]))).to.deep.equal(Float64Array.of(1, NaN));
    const column = Float64Array.of(1, NaN);
    expect(valuesOf(of(column))).to.equal(column);
  });

  it('are waited for only where they are of several series', () => {
    const of = (...seriesIds: (number | null)[]) => ({
      partial: { missing: 1, of: 3 },
      series: seriesIds.map((seriesId) => ({ seriesId }) as AnswerSeries)
    });
    expect(waitedFor(of(1, null))).to.deep.equal({ missing: 1, of: 3 });
    expect(waitedFor(of(1, 2, 3))).to.equal(null);
    expect(waitedFor({ ...of(null), partial: null })).to.equal(null);
  });

  it('have gaps only before a cell', () => {
    expect(hasGaps({ values: [1, null, 3] }, 3)).to.equal(true);
    expect(hasGaps({ values: [1, null, 3] }, 1)).to.equal(false);
    expect(hasGaps({ values: [1, 2, null] }, 2)).to.equal(false);
    expect(hasGaps({ values: [null] }, -1)).to.equal(false);
  });
});
