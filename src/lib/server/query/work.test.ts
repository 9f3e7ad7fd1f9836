import { expect } from 'chai';
import fc from 'fast-check';
import { withDatabase } from '../../../../tests/support/database';
import {
  alignSeries,
  groupSeries,
  growSeries,
  isOfGrowth,
  pointsOfLength,
  type SummaryPoints
} from '../../core/series';
import { pickSchema, signalSchema, type Readings, type Source } from '../../core/signal';
import { evaluateSignal, prepare } from '../../core/signal/evaluate';
import { day, duration, gridOver, instant, minute, range, times, type Instant } from '../../core/time';
import type { StoreClient } from '../store/open-store';
import { startQueryThread, type EvaluatorClient } from './query-thread';

/** The clocks of Europe are put forward on the fourth of these days. */
const begin = Date.parse('2026-03-26T00:00:00Z');

/** Three series over five days, a minute each, with gaps; the second and third are running totals that begin anew now and then. */
const length = times(5, day);
const kinds = ['gauge', 'cumulative', 'cumulative'] as const;

function samplesOf(seriesId: number): SummaryPoints {
  const kept = Array.from({ length: length / minute }, (_, i) => i).filter(
    (i) => (i * 7919 + seriesId) % 13 !== 0 && Math.floor(i / 200) % 9 !== 4
  );
  const points = pointsOfLength(kept.length);
  let total = 0;
  kept.forEach((i, index) => {
    total = i % 3001 === 7 ? 0 : total + ((i * 31) % 17);
    points.at[index] = begin + i * minute;
    points.sum[index] = points.min[index] = points.max[index] = seriesId === 1 ? ((i * 7919) % 1009) - 500 : total;
    points.count[index] = 1;
  });
  return points;
}

describe('signals worked out of the store', () => {
  const fixture = withDatabase();
  let store: StoreClient;
  let evaluator: EvaluatorClient;
  const all = new Map([1, 2, 3].map((id) => [id, samplesOf(id)]));
  const sources: Source[] = [1, 2, 3].map((id, index) => ({
    id,
    labels: { account: 'a', region: id === 3 ? 'q' : 'p', resource: `m${id}` },
    kind: kinds[index] ?? 'gauge',
    unit: 'By',
    samplingMs: minute
  }));

  before(async () => {
    ({ store, evaluator } = startQueryThread(fixture.connection));
    await store.ready;
    const sealed = 4 * 1440;
    for (const [seriesId, points] of all) {
      const end = points.at.findIndex((at) => at >= begin + sealed * minute);
      const part = (from: number, to: number): SummaryPoints => ({
        at: points.at.slice(from, to),
        sum: points.sum.slice(from, to),
        count: points.count.slice(from, to),
        min: points.min.slice(from, to),
        max: points.max.slice(from, to)
      });
      await store.append(1, 1 as Instant, [{ seriesId, points: part(0, end) }]);
      await store.samples.seal({ receivedBefore: 2 as Instant, mostPoints: 0 }, 2 as Instant);
      await store.append(1, 3 as Instant, [{ seriesId, points: part(end, points.at.length) }]);
    }
  });
  after(() => store.close());

  /** The samples as they are, without store, chunks or rollups. */
  const plainly: Readings = {
    aligned: ({ id, kind, samplingMs }, grid, statistic) => {
      const points = all.get(id) as SummaryPoints;
      return isOfGrowth(statistic)
        ? growSeries(points, grid, kind === 'delta' ? 'delta' : 'cumulative', samplingMs, statistic)
        : alignSeries(points, grid, statistic);
    },
    pooled: (group, grid, statistic) =>
      groupSeries(
        group.map(({ id }) => all.get(id) as SummaryPoints),
        grid,
        statistic
      ),
    newest: () => null,
    counted: () => ({ columns: [], unit: '1', isRatio: false })
  };

  it('are what all samples give, over rollups, chunk borders, gaps and resets', async () => {
    const statistic = fc.constantFrom(
      'avg',
      'min',
      'max',
      'sum',
      'count',
      'last',
      'median',
      'p95',
      'stddev',
      'rate',
      'increase'
    );
    const combine = fc.constantFrom(
      undefined,
      { statistic: 'max', by: [] },
      { statistic: 'count', by: ['region'] },
      'same' as const
    );
    const formula = fc.constantFrom(
      'a',
      'previous(a, 1 day)',
      'previous(a, 90 min)',
      'moving_avg(a, 3 hours)',
      'difference(a)',
      'a - previous(moving_avg(a, 1 h), 2 h)',
      'cumulate(fill(a, 0))'
    );
    const asked = fc.record({
      from: fc.nat(5 * 1440),
      cells: fc.integer({ min: 1, max: 60 }),
      step: fc.constantFrom(1, 5, 7, 30, 60, 180, 360, 1440),
      zone: fc.constantFrom('UTC', 'Europe/Berlin', 'Asia/Kolkata', 'Pacific/Chatham'),
      statistic,
      combine,
      formula
    });
    let rolled = 0;
    await fc.assert(
      fc.asyncProperty(asked, async ({ from, cells, step, zone, statistic: of, combine: how, formula: text }) => {
        const ofTotals = of === 'rate' || of === 'increase';
        const picked = sources.slice(ofTotals ? 1 : 0);
        const pooled = ['avg', 'median', 'p95', 'stddev'].includes(of);
        const together = how === 'same' ? (pooled ? { statistic: of, by: ['region'] } : undefined) : how;
        const row = { name: 'a', metric: 'm', statistic: of, ...(together ? { combine: together } : {}) };
        fc.pre(pickSchema.safeParse(row).success && !(together?.statistic === 'count' && of === 'count'));
        const signal = signalSchema.parse({ version: 2, step: 'PT1M', rows: [row, { name: 'b', formula: text }] });
        const span = range(instant(begin + from * minute), instant(begin + (from + cells * step) * minute));
        const length_ = duration(step * minute);
        const work = {
          signal,
          sources: { a: picked },
          notes: [],
          completeUntil: instant(begin + length),
          linesUntil: {}
        };
        const worked = await evaluator.evaluate(work, span, length_, zone);
        if (worked.kind === 'fault') throw new Error(worked.problem.message);
        const expected = evaluateSignal(
          prepare(signal),
          gridOver(span, length_, zone),
          () => picked,
          plainly,
          begin + length
        );
        expect(worked.rows[0]?.columns.map(({ labels }) => labels)).to.deep.equal(
          expected.rows[0]?.columns.map(({ labels }) => labels)
        );
        worked.rows[0]?.columns.forEach(({ values }, index) => {
          const theirs = expected.rows[0]?.columns[index]?.values as Float64Array;
          values.forEach((value, cell) => {
            const other = theirs[cell] as number;
            if (Number.isNaN(other)) expect(value, `cell ${cell}`).to.deep.equal(NaN);
            else expect(value, `cell ${cell}`).to.be.closeTo(other, 1e-9 * Math.max(1, Math.abs(other)));
          });
        });
        if (worked.effort.resolution > 0) rolled++;
      }),
      { numRuns: 250 }
    );
    expect(rolled, 'answers from rollups').to.be.above(10);
  }).timeout(300_000);

  it('read once what several ask for, and say what was read', async () => {
    const signal = signalSchema.parse({
      version: 2,
      step: 'PT1M',
      rows: [{ name: 'a', metric: 'm', statistic: 'avg' }]
    });
    const work = {
      signal,
      sources: { a: sources.slice(0, 1) },
      notes: [],
      completeUntil: instant(begin + length),
      linesUntil: {}
    };
    const span = range(instant(begin), instant(begin + times(2, day)));
    const [fine, coarse] = await evaluator.evaluateAll([
      { work, span, step: minute },
      { work, span, step: times(60, minute) }
    ]);
    if (fine?.kind !== 'worked' || coarse?.kind !== 'worked') throw new Error('not worked out');
    const within = (all.get(1) as SummaryPoints).at.filter((at) => at < span.to).length;
    expect([fine.effort.points, fine.effort.resolution, fine.effort.series]).to.deep.equal([within, 0, 1]);
    expect(coarse.effort.resolution).to.equal(3_600_000);
    expect(coarse.effort.points).to.be.at.most(48);
  });
});
