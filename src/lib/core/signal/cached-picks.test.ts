import { expect } from 'chai';
import fc from 'fast-check';
import { alignSeries, groupSeries, isOfGrowth, pointsOfLength, type QueryAnswer, type SummaryPoints } from '../series';
import { duration, instant, minute, type Grid } from '../time';
import { answerOf, signalSchema, type Readings, type Signal, type Source } from './index';
import { evaluateSignal, prepare } from './evaluate';
import { answerFromCache, cachedPicksOf, picksAlone } from './cached-picks';

const grid: Grid = { start: instant(10 * minute), step: duration(minute), count: 8 };
const completeUntil = 16 * minute;
const resources = new Map([['x\nm1', 7]]);

const sources: Source[] = [1, 2, 3, 4].map((id) => ({
  id,
  labels: { account: 'x', region: id % 2 ? 'p' : 'q', resource: `m${id}` },
  kind: 'gauge',
  unit: 'By',
  samplingMs: minute
}));

function readingsOf(values: readonly (number | null)[]): Readings {
  const points = new Map(
    sources.map(({ id }): [number, SummaryPoints] => {
      const kept = [...values.keys()].filter((i) => values[(i + id) % values.length] !== null);
      const columns = pointsOfLength(kept.length);
      kept.forEach((i, at) => {
        columns.at[at] = (8 + i) * minute;
        columns.sum[at] = columns.min[at] = columns.max[at] = values[(i + id) % values.length] as number;
        columns.count[at] = 1;
      });
      return [id, columns];
    })
  );
  const of = ({ id }: Source) => points.get(id) as SummaryPoints;
  return {
    aligned: (source, on, statistic) =>
      isOfGrowth(statistic) ? new Float64Array(on.count) : alignSeries(of(source), on, statistic),
    pooled: (group, on, statistic) => groupSeries(group.map(of), on, statistic),
    newest: (source) => of(source).at.at(-1) ?? null,
    counted: () => ({ columns: [], unit: '1', isRatio: false })
  };
}

describe('a signal worked out of what the browser has', () => {
  const signalOf = (formula: string, more: object = {}): Signal =>
    signalSchema.parse({
      version: 2,
      step: 'PT1M',
      rows: [
        { name: 'a', metric: 'm', statistic: 'avg' },
        { name: 'b', metric: 'm', statistic: 'max', combine: { statistic: 'sum', by: ['region'] } },
        { name: 'c', formula }
      ],
      ...more
    });
  const answered = (signal: Signal, readings: Readings) =>
    answerOf(
      {
        kind: 'worked',
        grid,
        effort: { series: 0, points: 0, resolution: 0, milliseconds: 0 },
        ...evaluateSignal(prepare(signal), grid, () => sources, readings, completeUntil)
      },
      completeUntil,
      instant(99 * minute),
      resources,
      new Map()
    );
  /** An answer as it comes over the wire: text in which gaps are null. */
  const asSent = (answer: QueryAnswer): QueryAnswer => {
    const listed = ({ values }: QueryAnswer['series'][number]) =>
      Array.from(values as Float64Array, (value) => (Number.isNaN(value) ? null : value));
    const series = answer.series.map((one) => ({ ...one, values: listed(one) }));
    return JSON.parse(JSON.stringify({ ...answer, series })) as QueryAnswer;
  };
  const heldFor = (signal: Signal, readings: Readings) => {
    const picks = picksAlone(signal);
    const answer = answered(picks, readings);
    if (!('series' in answer)) throw new Error(answer.message);
    return cachedPicksOf(picks, asSent(answer));
  };

  it('is what the server answers, for every formula, limit and unit on the same cells', () => {
    const formula = fc.constantFrom(
      'a',
      'a / b',
      'b - a',
      'cumulate(fill(a, 0)) / 2',
      'max(a, 3) * 100',
      'fill(b, last)'
    );
    const more = fc.constantFrom<object>(
      {},
      { show: ['a', 'b'] },
      { show: ['a'], unit: 'KiBy' },
      { limit: { keep: 1, order: 'highest', by: 'max', rest: 'sum' } }
    );
    const values = fc.array(fc.option(fc.integer({ min: -9, max: 9 })), { minLength: 12, maxLength: 12 });
    fc.assert(
      fc.property(formula, more, values, (text, rest, numbers) => {
        const signal = signalOf(text, rest);
        const readings = readingsOf(numbers);
        const expected = answered(signal, readings);
        const here = answerFromCache(signal, heldFor(signal, readings));
        if (here === null || !('series' in here) || !('series' in expected)) throw new Error('not worked out');
        const { effort: _, ...others } = here;
        const { effort: __, ...wanted } = expected;
        expect(others).to.deep.equal(wanted);
      })
    );
  });

  it('is left to the server when it needs other picks or earlier cells; names and faults do not matter', () => {
    const readings = readingsOf(Array.from({ length: 12 }, (_, i) => i));
    const signal = signalOf('a / b');
    const cached = heldFor(signal, readings);
    expect(answerFromCache(signalOf('previous(a, 5 min)'), cached)).to.equal(null);
    expect(answerFromCache(signalOf('moving_avg(a, 5 min)'), cached)).to.equal(null);
    const [a, b] = signal.rows;
    expect(
      answerFromCache(
        { ...signal, rows: [{ ...a, metric: 'other' } as (typeof signal.rows)[0], b!, { name: 'c', formula: 'a' }] },
        cached
      )
    ).to.equal(null);
    const renamed = {
      ...signal,
      rows: [{ ...a, name: 'first' } as (typeof signal.rows)[0], b!, { name: 'c', formula: 'first / b' }]
    };
    expect(answerFromCache(renamed, cached)).to.have.property('series');
    expect(answerFromCache(signalOf('a / nothing'), cached)).to.deep.include({
      message: 'There is no row named nothing.',
      place: [4, 11]
    });
  });
});
