// Worlds in which samples are late, overtake each other, are missing, or begin anew, as an engine lives through them.
import { LinesHere } from '../../src/lib/server/query/signals/line-rows';
import fc from 'fast-check';
import { completeUntil, gapsFinalUntil } from '../../src/lib/core/alarm';
import type { BandCells } from '../../src/lib/core/band';
import { alignSeries, growSeries, type SummaryPoints } from '../../src/lib/core/series';
import { plainSignal, type Worked } from '../../src/lib/core/signal';
import { evaluateSignal, prepare } from '../../src/lib/core/signal/evaluate';
import { duration, gridOver, minute, times, type Duration, type Instant, type Range } from '../../src/lib/core/time';
import type { BandsOf } from '../../src/lib/server/engine/condition-data';
import type { Series } from '../../src/lib/server/inventory/series';
import type { Resolved } from '../../src/lib/server/query/signals/resolve';
import type { SignalEvaluator, SignalWork } from '../../src/lib/server/query/signals/work';

/** A sample with the time that it takes to arrive. */
interface Sent {
  readonly at: number;
  readonly value: number;
  readonly late: number;
}

export const declaredDelay = times(3, minute);
/** Cells of history that are there from the beginning. */
export const historyCells = 120;
export const liveCells = 45;
export const start = times(60 * 24 * 30, minute);

/** One world: what each series sends, and how the engine comes to look at it. */
export interface World {
  readonly series: readonly (readonly Sent[])[];
  /** Cells that pass between two looks of the engine. */
  readonly looks: readonly number[];
  readonly isCumulative: boolean;
}

const cell = fc.record({
  value: fc.oneof(
    { weight: 5, arbitrary: fc.constantFrom(20, 22, 25, 30) },
    { weight: 2, arbitrary: fc.constantFrom(75, 85, 90, 99) },
    { weight: 2, arbitrary: fc.constant(null) }
  ),
  /** Samples of one series may overtake each other. */
  late: fc.integer({ min: 0, max: declaredDelay - 1000 })
});
export const anyWorld = (isCumulative: boolean, most: number): fc.Arbitrary<World> =>
  fc
    .record({
      series: fc.array(fc.array(cell, { minLength: liveCells, maxLength: liveCells }), {
        minLength: most === 1 ? 1 : 4,
        maxLength: Math.max(most, 1)
      }),
      looks: fc.array(fc.integer({ min: 1, max: 12 }), { minLength: 1, maxLength: liveCells }),
      seed: fc.nat(1000)
    })
    .map(({ series, looks, seed }) => ({
      looks,
      isCumulative,
      series: series.map((cells, of) => {
        const calm = Array.from({ length: historyCells }, (_, i) => ({
          value: 20 + ((i * 7 + of * 3 + seed) % 9),
          late: 0
        }));
        let total = 0;
        let before = 0;
        return [...calm, ...cells].flatMap(({ value, late }, i): Sent[] => {
          // A gap of a running total gets its values with the sample after it, however late that is: there are none here.
          if (value === null && !isCumulative) return [];
          // A running total begins anew now and then.
          total = (value ?? 0) > 95 ? 1 : total + (value ?? 0);
          const at = start + i * minute;
          // Those of a running total come in order: a cell of it is made of both of its ends.
          before = Math.max(before, at + late);
          return [{ at, value: isCumulative ? total : (value ?? 0), late: isCumulative ? before - at : late }];
        });
      })
    }));

const seriesOf = (world: World): Series[] =>
  world.series.map((_, index): Series => {
    const labels = { account: 'a', provider: 'p', region: 'r', service: 's', type: 't', resource: `m${index}` };
    return {
      ...{
        id: index + 1,
        accountId: 1,
        resourceId: index + 1,
        metric: 'm',
        service: 's',
        labels,
        conditionLabels: labels
      },
      ...{ ofResource: labels, kind: world.isCumulative ? 'cumulative' : 'gauge', shape: 'single', unit: '%' },
      ...{ samplingMs: minute, stamp: 'start', delayMs: declaredDelay, endedAt: null }
    };
  });

const arrivedBy = (sent: readonly Sent[], now: number): readonly Sent[] =>
  sent.filter(({ at, late }) => at + minute + late <= now);

function pointsOf(sent: readonly Sent[]): SummaryPoints {
  const at = Float64Array.from(sent, (one) => one.at);
  const value = Float64Array.from(sent, (one) => one.value);
  return { at, sum: value, min: value, max: value, count: new Float64Array(at.length).fill(1) };
}

/** Evaluates over what has arrived, as the thread of the samples does over what is stored. */
export const evaluatorAt = (world: World, now: () => number): SignalEvaluator => ({
  evaluate: (work: SignalWork, span: Range, step: Duration): Promise<Worked> => {
    const grid = gridOver(span, step);
    const points = (id: number) => pointsOf(arrivedBy(world.series[id - 1] ?? [], now()));
    const { rows, notes } = evaluateSignal(
      prepare(work.signal),
      grid,
      (row) => work.sources[row] ?? [],
      {
        aligned: ({ id }, on, statistic) =>
          statistic === 'increase' || statistic === 'rate'
            ? growSeries(points(id), on, 'cumulative', minute, statistic, 'start')
            : alignSeries(points(id), on, statistic),
        pooled: () => new Float64Array(grid.count),
        newest: ({ id }) =>
          arrivedBy(world.series[id - 1] ?? [], now()).reduce((most, { at }) => Math.max(most, at), 0) || null,
        counted: () => ({ columns: [], unit: '1', isRatio: false })
      },
      work.completeUntil
    );
    const effort = { series: 1, points: 0, resolution: 0, milliseconds: 0 };
    return Promise.resolve({ kind: 'worked', grid, effort, rows, notes });
  }
});

export const signalOf = (world: World) =>
  plainSignal({ metric: 'm', statistic: world.isCumulative ? 'increase' : 'avg' });
export const resolvedOf = (world: World): Resolved => ({
  signal: signalOf(world),
  series: { a: seriesOf(world) },
  lines: LinesHere.none,
  notes: []
});

/** A band that depends on nothing but the time. */
export const bandsOf: BandsOf = (_context, _resolved, columns, grid): Promise<(BandCells | null)[]> =>
  Promise.resolve(
    columns.map(({ labels }, of) => {
      if (labels['resource'] === 'm3') return null;
      const cells = (by: (minuteOf: number) => number) =>
        Float64Array.from({ length: grid.count }, (_, i) =>
          by(Math.floor((grid.start + i * grid.step) / minute) + of * 0)
        );
      return {
        transform: { kind: 'none' as const },
        centre: cells((at) => 24 + (at % 5)),
        below: cells(() => 5),
        above: cells((at) => 6 + (at % 3)),
        learned: { days: 28, season: 'none' as const }
      };
    })
  );

/** Where the cells of a world's series are complete. */
export function arrivals(world: World, now: number) {
  return new Map(
    world.series.map((sent, index) => {
      const newest = arrivedBy(sent, now).reduce((most, { at }) => Math.max(most, at), 0);
      const waits = world.isCumulative ? minute : 0;
      const arrival = {
        now: now as Instant,
        newest: (newest || null) as Instant | null,
        sampling: duration(minute - waits),
        delay: duration(declaredDelay + waits),
        askedUntil: now as Instant,
        failing: false
      };
      return [
        index + 1,
        { complete: completeUntil(arrival, minute), gapsFinal: gapsFinalUntil(arrival, minute) }
      ] as const;
    })
  );
}
