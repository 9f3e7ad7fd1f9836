import { Refusal } from '../../problem/problem';
import { expect } from 'chai';
import fc from 'fast-check';
import {
  figure,
  referenceLimit,
  referencePick,
  type ReferenceSeries
} from '../../../../../tests/support/reference-evaluator';
import { alignSeries, groupSeries, noPoints, pointsOfLength, type SummaryPoints } from '../../series';
import { duration, instant, minute, type Grid } from '../../time';
import { signalSchema, type SignalPick, type Readings, type Source } from '../index';
import { combineProblem, evaluateSignal, prepare, wantedOf } from './index';
import { movingAverage } from './work';

const grid: Grid = { start: instant(0), step: duration(minute), count: 4 };

function pointsOf({ samples }: ReferenceSeries): SummaryPoints {
  const sorted = samples.toSorted((one, other) => one.at - other.at);
  const points = pointsOfLength(sorted.length);
  sorted.forEach(({ at, value }, i) => {
    points.at[i] = at;
    points.sum[i] = points.min[i] = points.max[i] = value;
    points.count[i] = 1;
  });
  return points;
}

function readingsOf(all: readonly ReferenceSeries[]): Readings {
  const points = new Map(all.map((one) => [one.id, pointsOf(one)]));
  const of = ({ id }: Source) => points.get(id) ?? noPoints();
  return {
    aligned: (source, on, statistic) => alignSeries(of(source), on, statistic),
    pooled: (sources, on, statistic) => groupSeries(sources.map(of), on, statistic),
    newest: (source) => of(source).at.at(-1) ?? null,
    counted: () => ({ columns: [], unit: '1', isRatio: false })
  };
}

const sourcesOf = (all: readonly ReferenceSeries[], unit = 'By'): Source[] =>
  all.map(({ id, labels }) => ({ id, labels, kind: 'gauge', unit, samplingMs: minute }));

const seriesList: fc.Arbitrary<ReferenceSeries[]> = fc
  .array(
    fc.record({
      region: fc.constantFrom('p', 'q'),
      samples: fc.uniqueArray(fc.record({ at: fc.nat(4 * minute - 1), value: fc.integer({ min: -50, max: 50 }) }), {
        selector: ({ at }) => at,
        maxLength: 12
      })
    }),
    { maxLength: 6 }
  )
  .map((list) =>
    list.map(({ region, samples }, id) => ({ id, labels: { account: 'x', region, resource: `m${id}` }, samples }))
  );

const statistics = [
  'avg',
  'min',
  'max',
  'sum',
  'count',
  'last',
  'median',
  'p75',
  'p90',
  'p95',
  'p99',
  'p99.9',
  'stddev'
];
const combining = statistics.filter((statistic) => statistic !== 'last');

function closeTo(ours: readonly number[], theirs: readonly number[]): void {
  expect(ours.length).to.equal(theirs.length);
  ours.forEach((value, i) => {
    const other = theirs[i] as number;
    if (Number.isNaN(other)) expect(value, `cell ${i}`).to.deep.equal(NaN);
    else expect(value, `cell ${i}`).to.be.closeTo(other, 1e-9);
  });
}

describe('evaluating a signal', () => {
  it('agrees with the slow reference for every statistic, combination and grouping', () => {
    const combine = fc.option(
      fc.record({
        statistic: fc.constantFrom(...combining),
        by: fc.constantFrom<string[]>([], ['region'], ['region', 'resource'], ['account', 'resource'], ['nothing'])
      }),
      { nil: undefined }
    );
    fc.assert(
      fc.property(seriesList, fc.constantFrom(...statistics), combine, (all, statistic, how) => {
        const row = { name: 'a', metric: 'm', statistic, where: [], ...(how ? { combine: how } : {}) } as SignalPick;
        fc.pre(combineProblem(row) === null);
        const signal = signalSchema.parse({ version: 2, step: 'PT1M', rows: [row] });
        const { rows } = evaluateSignal(prepare(signal), grid, () => sourcesOf(all), readingsOf(all), Infinity);
        // A resource is told apart by its account: the reference is asked so.
        const by = how && how.by.includes('resource') && !how.by.includes('account') ? ['account', ...how.by] : how?.by;
        const asked = how && by ? ({ ...row, combine: { ...how, by } } as SignalPick) : row;
        const expected = referencePick(asked, all, { start: 0, step: minute, count: 4 });
        expect(rows[0]?.columns.map(({ labels }) => labels)).to.deep.equal(expected.map(({ labels }) => labels));
        rows[0]?.columns.forEach(({ values }, i) => closeTo([...values], expected[i]?.values ?? []));
      }),
      { numRuns: 600 }
    );
  });

  it('a percentile of combined series is of the samples, not of percentiles; what cannot be is refused', () => {
    const all = [
      { id: 0, labels: { resource: 'a' }, samples: [1, 2, 3].map((value, at) => ({ at, value })) },
      { id: 1, labels: { resource: 'b' }, samples: [100].map((value, at) => ({ at, value })) }
    ];
    const rows = [{ name: 'a', metric: 'm', statistic: 'median', combine: { statistic: 'median', by: [] } }];
    const signal = signalSchema.parse({ version: 2, step: 'PT1M', rows });
    const worked = evaluateSignal(prepare(signal), grid, () => sourcesOf(all), readingsOf(all), Infinity);
    expect(worked.rows[0]?.columns[0]?.values[0]).to.equal(2.5); // of 1 2 3 100; the median of medians would be 51
    const averaged = { ...signal.rows[0], combine: { statistic: 'avg', by: [] } } as SignalPick;
    expect(combineProblem(averaged)).to.include('means nothing: combine by median');
  });

  it('an average of summary points is exact, however they are grouped', () => {
    const points = pointsOfLength(2);
    points.at.set([0, 1]);
    points.sum.set([1, 30]);
    points.count.set([1, 10]);
    expect(groupSeries([points, points], grid, 'avg')[0]).to.equal(62 / 22);
  });

  it('keeps the highest few, best first, and folds the rest into one', () => {
    const limit = fc.record({
      keep: fc.integer({ min: 1, max: 5 }),
      order: fc.constantFrom('highest' as const, 'lowest' as const),
      by: fc.constantFrom('avg' as const, 'max' as const, 'min' as const, 'last' as const),
      rest: fc.constantFrom('leave out' as const, 'sum' as const)
    });
    fc.assert(
      fc.property(seriesList, limit, (all, how) => {
        const rows = [{ name: 'a', metric: 'm', statistic: 'avg' }];
        const whole = signalSchema.parse({ version: 2, step: 'PT1M', rows });
        const run = (signal: typeof whole) =>
          evaluateSignal(prepare(signal), grid, () => sourcesOf(all), readingsOf(all), Infinity).rows[0]?.columns ?? [];
        const columns = run(whole);
        const kept = run({ ...whole, limit: how });
        const named = columns.map(({ labels, values }) => ({
          labels,
          values: [...values],
          name: labels['resource'] ?? ''
        }));
        expect(kept.slice(0, how.keep).map(({ labels }) => labels['resource'])).to.deep.equal(
          referenceLimit(named, how)
        );
        const folds = how.rest === 'sum' && all.length > how.keep;
        expect(kept.length).to.equal(Math.min(all.length, how.keep) + Number(folds));
        if (!folds) return;
        const sums = (list: typeof columns) =>
          Array.from({ length: 4 }, (_, i) => list.reduce((sum, { values }) => sum + (values[i] || 0), 0));
        closeTo(sums(kept), sums(columns));
      })
    );
  });

  const row = (name: string, more: object = {}) => ({ name, metric: name, statistic: 'avg', ...more });
  const reference = (labels: Record<string, string>, id = 0): ReferenceSeries => ({
    id,
    labels,
    samples: [{ at: 0, value: id + 1 }]
  });
  const run = (formula: string, by: Record<string, Source[]>, all: readonly ReferenceSeries[], more: object = {}) => {
    const rows = [...Object.keys(by).map((name) => row(name)), { name: 'result', formula }];
    const signal = signalSchema.parse({ version: 2, step: 'PT1M', rows, ...more });
    return evaluateSignal(prepare(signal), grid, (name) => by[name] ?? [], readingsOf(all), Infinity);
  };
  const faultOf = (work: () => unknown): Refusal => {
    try {
      work();
    } catch (error) {
      if (error instanceof Refusal) return error;
      throw error;
    }
    throw new Error('nothing was refused');
  };

  it('series of two rows meet on equal labels; what does not meet is said', () => {
    const all = [
      reference({ region: 'p', resource: 'm0' }, 0),
      reference({ region: 'p', resource: 'm1' }, 1),
      reference({ region: 'q', resource: 'm2' }, 2),
      reference({ region: 'p' }, 3),
      reference({ region: 'r' }, 4)
    ];
    const sources = sourcesOf(all);
    const machines = sources.slice(0, 3);
    const regions = sources.slice(3);
    const { rows, notes } = run('a / b', { a: machines, b: regions }, all);
    expect(rows[0]?.columns.map(({ labels, values }) => [labels['resource'], values[0]])).to.deep.equal([
      ['m0', 1 / 4],
      ['m1', 2 / 4]
    ]);
    expect(notes[0]?.text).to.equal(
      '1 of 3 series on the left and 1 of 2 on the right have no counterpart and are left out.'
    );
    expect(run('b + a', { a: machines, b: regions }, all).rows[0]?.columns).to.have.length(2);
    const one = run('a / b', { a: machines, b: [{ ...(sources[4] as Source), labels: {} }] }, all);
    expect(one.rows[0]?.columns).to.have.length(3);
    const classes = [reference({ resource: 'g', class: '2xx' }, 0), reference({ resource: 'g', class: '5xx' }, 1)];
    const [good, bad] = sourcesOf(classes) as [Source, Source];
    expect(run('a / b', { a: [good], b: [bad] }, classes).notes[0]?.text).to.include('never agree in class');
    const twice = faultOf(() =>
      run('a / b', { a: machines, b: machines.map((it) => ({ ...it, labels: { region: 'p' } })) }, all)
    );
    expect([twice.message, twice.place]).to.deep.equal([
      'Both sides have several series with region p, so it is not clear which belong together.',
      [0, 5]
    ]);
  });

  it('works units out, and refuses what does not measure the same at its place', () => {
    const all = [reference({}, 0), reference({}, 1)];
    const [bytes, seconds] = [sourcesOf(all, 'By').slice(0, 1), sourcesOf(all, 's').slice(1)];
    const by = { a: bytes, b: seconds };
    const unitOf = (formula: string, more: object = {}) => run(formula, by, all, more).rows[0]?.unit;
    expect(unitOf('a / b')).to.equal('By/s');
    expect(unitOf('a / a')).to.equal('1');
    expect(unitOf('a / a * 100')).to.equal('%');
    expect(unitOf('sqrt(b ^ 2)')).to.equal('s');
    expect(unitOf('a > 3')).to.equal('1');
    expect(unitOf('max(a, 5) + 1')).to.equal('By');
    const shown = run('a / a', by, all, { unit: '%' });
    expect(shown.rows[0]?.columns[0]?.values[0]).to.equal(100);
    const fault = faultOf(() => run('a * 2 + b', by, all));
    expect([fault.message, fault.path, fault.place]).to.deep.equal([
      'B and s do not measure the same.',
      ['rows', 2, 'formula'],
      [0, 9]
    ]);
    expect(faultOf(() => run('log(a)', by, all)).message).to.equal('log is of plain numbers, and this has a unit.');
    expect(faultOf(() => run('a / b', by, all, { unit: 's' })).path).to.deep.equal(['unit']);
  });

  it('refuses circles, unknown names and functions, and too many ways', () => {
    const prepared = (...formulas: string[]) =>
      prepare(
        signalSchema.parse({
          version: 2,
          step: 'PT1M',
          rows: [row('a'), ...formulas.map((formula, i) => ({ name: `f${i}`, formula }))]
        })
      );
    const messageOf = (...formulas: string[]) => faultOf(() => prepared(...formulas)).message;
    expect(messageOf('f1', 'f2', 'f0')).to.equal('The row f0 depends on itself: f0 → f1 → f2 → f0.');
    expect(messageOf('b')).to.equal('There is no row named b.');
    expect(messageOf('sum(a)')).to.equal('There is no function sum.');
    expect(messageOf('constructor(a)')).to.equal('There is no function constructor.');
    expect(messageOf('clamp(a)')).to.equal('clamp takes 3 parts, not 1.');
    expect(messageOf('previous(a, 3)')).to.include('takes a length of time');
    expect(messageOf('previous(a, 1000 weeks)')).to.include('at most 400 days');
    expect(messageOf('fill(a, 7)')).to.equal('fill takes 0, last or linear here.');
    expect(messageOf('a + 1 week')).to.include('stands only in');
    const deep = Array.from({ length: 12 }, (_, i) => {
      const of = i === 0 ? 'a' : `f${i - 1}`;
      return `previous(${of}, ${2 ** i} min) + previous(${of}, ${3 ** Math.min(i, 8)} min)`;
    });
    expect(
      faultOf(() => wantedOf(prepared(...deep), { ...grid, start: instant(20_000_000 * minute) })).message
    ).to.include('more than 200 ways');
  });

  it('a moving average slides over long windows and gives what adding each up gives', () => {
    const value = fc.oneof(
      { weight: 6, arbitrary: fc.double({ min: -1e6, max: 1e6, noNaN: true }) },
      { weight: 1, arbitrary: fc.constant(NaN) }
    );
    fc.assert(
      fc.property(fc.array(value, { maxLength: 80 }), fc.integer({ min: 1, max: 30 }), (list, cells) => {
        const ours = movingAverage(Float64Array.from(list), cells);
        const slow = Array.from({ length: Math.max(0, list.length - cells + 1) }, (_, i) =>
          figure(
            list.slice(i, i + cells).filter((one) => !Number.isNaN(one)),
            'avg'
          )
        );
        expect(ours.length).to.equal(slow.length);
        ours.forEach((one, i) => {
          if (Number.isNaN(slow[i])) expect(one).to.deep.equal(NaN);
          else expect(one).to.be.closeTo(slow[i] as number, 1e-8);
        });
      })
    );
  });

  it('grouping by a label that no series has makes one group, whatever the label is called', () => {
    const all = [reference({ region: 'p' }, 0), reference({ region: 'q' }, 1)];
    for (const name of ['nothing', 'constructor', 'toString', '__proto__']) {
      const rows = [row('a', { combine: { statistic: 'sum', by: [name] } })];
      const signal = signalSchema.parse({ version: 2, step: 'PT1M', rows });
      const worked = evaluateSignal(prepare(signal), grid, () => sourcesOf(all), readingsOf(all), Infinity);
      expect(worked.rows[0]?.columns).to.have.length(1);
      expect(Object.entries(worked.rows[0]?.columns[0]?.labels ?? {})).to.deep.equal([[name, '']]);
    }
  });

  it('refuses formulas of too many parts', () => {
    const rows = [
      row('a'),
      ...Array.from({ length: 6 }, (_, i) => ({ name: `f${i}`, formula: 'a*'.repeat(60) + 'a' }))
    ];
    const signal = signalSchema.parse({ version: 2, step: 'PT1M', rows });
    expect(faultOf(() => prepare(signal)).message).to.equal(
      'The formulas have 726 parts together; at most 500 are allowed.'
    );
  });

  it('asks for the grids that formulas need: earlier ones, and ones that begin earlier', () => {
    const rows = [row('a'), { name: 'f', formula: 'a / previous(a, 1 h) + moving_avg(a, 3 min)' }];
    const wanted = wantedOf(prepare(signalSchema.parse({ version: 2, step: 'PT1M', rows })), {
      ...grid,
      start: instant(100 * minute)
    });
    expect(wanted.map(({ grid: on }) => [on.start / minute, on.count])).to.deep.equal([
      [100, 4],
      [40, 4],
      [98, 6]
    ]);
  });
});
