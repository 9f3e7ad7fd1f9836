import { expect } from 'chai';
import fc from 'fast-check';
import type { AnswerSeries, QueryAnswer } from '../series';
import { instant } from '../time';
import { completeValues, figureOf, figuresOf, histogramOf, snapshotRows, sortedRows } from './index';

const series = (id: number, resourceId: number, values: (number | null)[], newest = 2_000_000): AnswerSeries => ({
  id,
  seriesId: id,
  row: 'a',
  name: `series ${id}`,
  labels: {},
  account: 'corallo-prod',
  region: '',
  resource: `resource ${resourceId}`,
  resourceId,
  newest: instant(newest),
  complete: values.length,
  values
});
const answer = (all: AnswerSeries[], complete = 3): QueryAnswer => ({
  now: instant(660_000),
  start: instant(480_000),
  step: 60_000,
  count: 3,
  complete,
  partial: null,
  rows: [{ name: 'a', unit: '%' }],
  series: all.map((one) => ({ ...one, complete: Math.min(complete, one.complete) })),
  notes: [],
  effort: { series: all.length, points: 0, resolution: 0, milliseconds: 0 }
});

describe('one figure of a series', () => {
  it('is of the cells that have a value; the last one of the complete cells', () => {
    const values = Float64Array.of(4, NaN, 2, 9);
    expect((['avg', 'sum', 'min', 'max', 'last'] as const).map((reduce) => figureOf(values, reduce, 3))).to.deep.equal([
      3, 6, 2, 4, 2
    ]);
    expect(figureOf(Float64Array.of(NaN, NaN), 'sum', 2)).to.be.NaN;
    expect(figureOf(Float64Array.of(1, NaN), 'last', 2)).to.equal(1);
  });

  it('agrees with the slow way, whatever the cells', () => {
    const cell = fc.option(fc.integer({ min: -50, max: 50 }), { nil: NaN });
    fc.assert(
      fc.property(fc.array(cell, { maxLength: 20 }), (cells) => {
        const some = cells.filter((value) => !Number.isNaN(value));
        const values = Float64Array.from(cells);
        const told = (reduce: 'avg' | 'sum' | 'min' | 'max' | 'last') => figureOf(values, reduce, cells.length);
        if (some.length === 0) {
          expect(told('avg')).to.be.NaN;
          return;
        }
        const sum = some.reduce((total, value) => total + value, 0);
        expect([told('sum'), told('min'), told('max'), told('last')]).to.deep.equal([
          sum,
          Math.min(...some),
          Math.max(...some),
          some.at(-1)
        ]);
        expect(told('avg')).to.be.closeTo(sum / some.length, 1e-9);
      })
    );
  });

  it('comes highest first; a series that has stopped is not now', () => {
    const all = answer([series(1, 1, [1, 1, 1]), series(2, 2, [5, 5, 5]), series(3, 3, [9, 9, 9], 400_000)]);
    expect(figuresOf(all, 'last').map(({ series: { id } }) => id)).to.deep.equal([2, 1]);
    expect(figuresOf(all, 'max').map(({ series: { id } }) => id)).to.deep.equal([3, 2, 1]);
  });
});

describe('a last figure', () => {
  const minutes = (count: number) => instant(480_000 + count * 60_000);

  /** Cells of a minute from 00:08 on, asked at some time. */
  const asked = (values: (number | null)[], at = minutes(values.length)) => ({
    ...answer([series(1, 1, values)], values.length),
    count: values.length,
    now: at
  });
  const asOf = (of: QueryAnswer, reduce: 'last' | 'max' = 'last') => figuresOf(of, reduce)[0]?.asOf;
  const gap = (length: number) => Array.from({ length }, () => null);

  it('is told with its time where it is longer ago than people take it for', () => {
    expect(asOf(asked([4, 5])), 'of the end').to.equal(null);
    expect(asOf(asked([4, ...gap(15)])), 'a quarter of an hour ago').to.equal(null);
    expect(asOf(asked([4, ...gap(16)]))).to.equal(minutes(1));
    expect(asOf(asked([4, ...gap(16)]), 'max'), 'a figure of all cells has no time').to.equal(null);
  });

  it('of a range that is over is one of its end, however long ago that is', () => {
    expect(asOf(asked([4, 5], minutes(9999)))).to.equal(null);
    expect(asOf(asked([4, ...gap(16)], minutes(9999)))).to.equal(minutes(1));
  });

  it('of an answer whose cells reach beyond now counts from now', () => {
    expect(asOf(asked([4, ...gap(59)], minutes(10)))).to.equal(null);
  });

  it('and the course beside it leave out cells that still fill: a sum over some of its parts looks like a fall', () => {
    const still = answer([series(1, 1, [9, 8, 1])], 2);
    expect([...(figuresOf(still, 'last')[0]?.values ?? [])]).to.deep.equal([9, 8, NaN]);
    expect([...completeValues(still.series[0]!)]).to.deep.equal([9, 8, NaN]);
    expect([...(still.series[0]?.values ?? [])], 'the answer stays as it was').to.deep.equal([9, 8, 1]);
  });
});

describe('a snapshot list', () => {
  it('has a row for each resource, columns side by side, and one for each series where a resource has several', () => {
    const rows = snapshotRows(
      [answer([series(1, 1, [1, 2, 3]), series(2, 2, [4, 4, 4])]), answer([series(7, 1, [8, 8, 8])]), null],
      ['last', 'max', 'last']
    );
    expect(rows.map(({ name, cells }) => [name, ...cells.map((cell) => cell?.figure ?? null)])).to.deep.equal([
      ['resource 2', 4, null, null],
      ['resource 1', 3, 8, null]
    ]);
    const several = snapshotRows([answer([series(1, 1, [1, 1, 1]), series(2, 1, [2, 2, 2])])], ['last']);
    expect(several.map(({ name }) => name)).to.deep.equal(['series 2', 'series 1']);
  });

  it('keeps the row of what has stopped, and says since when; what reports in one column has not stopped', () => {
    const gone = {
      ...series(
        2,
        2,
        [4, NaN, NaN].map((value) => (Number.isNaN(value) ? null : value))
      ),
      newest: instant(200_000)
    };
    const never = { ...series(3, 3, [null, null, null]), newest: null };
    const of = { ...answer([series(1, 1, [1, 2, 3]), gone, never]) };
    const rows = snapshotRows([of], ['last']);
    expect(rows.map(({ name, silentSince }) => [name, silentSince])).to.deep.equal([
      ['resource 2', gone.newest],
      ['resource 1', null]
    ]);
    const nothing = { ...gone, values: [null, null, null] };
    const all = snapshotRows(
      [answer([series(1, 1, [1, 2, 3]), nothing]), answer([series(7, 2, [8, 8, 8])])],
      ['last', 'last']
    );
    expect(all.map(({ name, silentSince }) => [name, silentSince])).to.deep.equal([
      ['resource 1', null],
      ['resource 2', null]
    ]);
  });

  it('tells resources of one name apart by their account', () => {
    const twins = [
      { ...series(1, 1, [1, 1, 1]), resource: 'web', account: 'prod' },
      { ...series(2, 2, [2, 2, 2]), resource: 'web', account: 'dev' }
    ];
    expect(snapshotRows([answer(twins)], ['last']).map(({ name }) => name)).to.deep.equal(['web, dev', 'web, prod']);
  });

  it('is sorted by a column, rows without a figure last, else by name', () => {
    const rows = snapshotRows(
      [answer([series(1, 10, [1, 1, 1]), series(2, 2, [4, 4, 4])]), answer([series(7, 3, [8, 8, 8])])],
      ['last', 'last']
    );
    const names = (sort?: { column: number; direction: 'highest' | 'lowest' }) =>
      sortedRows(rows, sort).map(({ name }) => name.slice(9));
    expect(names()).to.deep.equal(['2', '3', '10']);
    expect(names({ column: 0, direction: 'highest' })).to.deep.equal(['2', '10', '3']);
    expect(names({ column: 0, direction: 'lowest' })).to.deep.equal(['10', '2', '3']);
  });
});

describe('a histogram', () => {
  it('counts every value once, from the lowest to the highest', () => {
    expect(histogramOf([Float64Array.of(0, 1, 2, 4)], 2)).to.deep.equal([
      { from: 0, to: 2, count: 2 },
      { from: 2, to: 4, count: 2 }
    ]);
    expect(histogramOf([Float64Array.of(3, NaN, 3)], 5)).to.deep.equal([{ from: 3, to: 3, count: 2 }]);
    expect(histogramOf([Float64Array.of(NaN)], 5)).to.deep.equal([]);
    fc.assert(
      fc.property(
        fc.array(fc.double({ noNaN: true, min: -1e6, max: 1e6 }), { minLength: 1 }),
        fc.integer({ min: 2, max: 40 }),
        (values, bins) => {
          const found = histogramOf([Float64Array.from(values)], bins);
          expect(found.reduce((sum, { count }) => sum + count, 0)).to.equal(values.length);
          expect([found[0]?.from === Math.min(...values), found.at(-1)?.to === Math.max(...values)]).to.deep.equal([
            true,
            true
          ]);
        }
      )
    );
  });
});
