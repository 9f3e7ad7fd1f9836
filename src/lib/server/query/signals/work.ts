import { Refusal, problemOf } from '$lib/core/problem/problem';
import {
  alignSeries,
  groupSeries,
  growSeries,
  isOfGrowth,
  longestOrdinary,
  type PooledStatistic,
  type Statistic,
  type SummaryPoints
} from '$lib/core/series';
import {
  type Note,
  type SignalPick,
  type Readings,
  type Signal,
  type Source,
  type Wanted,
  type Worked
} from '$lib/core/signal';
import { evaluateSignal, prepare, wantedLinesOf, wantedOf } from '$lib/core/signal/evaluate';
import { gridEnd, gridOver, instant, range, type Duration, type Grid, type Instant, type Range } from '$lib/core/time';
import type { Queryable } from '../../db/pool';
import { newestOf, readTogether, resolutionFor, type Sources } from '../../store/read';
import {
  countingMs,
  countLineRows,
  noLines,
  type AskedLines,
  type CountedLines,
  type LineCounter,
  type LinesUntil
} from './line-rows';

/** A signal with the stored series of each of its picks. */
export interface SignalWork {
  readonly signal: Signal;
  readonly sources: Readonly<Record<string, readonly Source[]>>;
  /** What is to be said of it besides. */
  readonly notes: readonly Note[];
  /** Cells that begin at or after this instant are still being filled. */
  readonly completeUntil: Instant;
  /** Up to where the lines of each of its rows of lines are here. */
  readonly linesUntil: LinesUntil;
  /** Accounts whose lines may be counted; all where it is not said, or null. */
  readonly lineAccounts?: readonly number[] | null;
}

/** Where numbers are read. */
export interface ReadFrom {
  readonly db: Queryable;
  readonly sources: () => Sources;
  readonly settled: () => Promise<number>;
  readonly lines: LineCounter | null;
}

/** Evaluates signals over stored samples, in whichever thread these are. */
export interface SignalEvaluator {
  evaluate(work: SignalWork, range: Range, step: Duration, zone?: string): Promise<Worked>;
}

/** Series that are read together: over one span, at one resolution. */
interface Reading {
  readonly span: Range;
  readonly resolution: number;
  readonly ids: Set<number>;
  points: ReadonlyMap<number, SummaryPoints>;
}

/** A signal to be computed over a range in cells of a step. */
export interface AskedWork {
  readonly work: SignalWork;
  readonly span: Range;
  readonly step: Duration;
}

/**
 * Works several signals out. What they share is read once and aligned once.
 *
 * @param zone in which steps of days and weeks begin
 * @param pause awaited before each signal, so that what is more urgent gets its turn; what it throws ends the work
 */
export async function workOutSignals(
  asked: readonly AskedWork[],
  zone: string,
  { db, sources, settled, lines }: ReadFrom,
  pause: () => Promise<void>
): Promise<Worked[]> {
  const plans = asked.map(({ work, span, step }) => planned(work, gridOver(span, step, zone)));
  const readings = new Map<string, Reading>();
  for (const plan of plans)
    if (plan.kind === 'planned')
      for (const wanted of plan.wanted)
        for (const source of plan.work.sources[wanted.row.name] ?? [])
          readingOf(readings, wanted.row.pick, source, wanted.grid).ids.add(source.id);
  const wanted = [...readings.values()].map(({ ids, span, resolution }) => ({
    seriesIds: [...ids],
    range: span,
    resolution
  }));
  const points = await readTogether(wanted, sources, settled);
  for (const [index, reading] of [...readings.values()].entries())
    reading.points = new Map([...reading.ids].map((id, of) => [id, points[index]?.[of] as SummaryPoints]));
  const aligned = new Map<string, Float64Array>();
  const all: Worked[] = [];
  const linesBy = performance.now() + countingMs;
  for (const plan of plans) {
    await pause();
    if (plan.kind === 'fault') all.push(plan);
    else if (plan.lines.length === 0) all.push(worked(plan, readings, aligned, noLines, sources()));
    else {
      const counted = await countLineRows(db, lines, plan.lines, linesBy, zone).catch(faultOf);
      all.push('kind' in counted ? counted : worked(plan, readings, aligned, counted, sources()));
    }
  }
  return all;
}

interface Planned {
  readonly kind: 'planned';
  readonly work: SignalWork;
  readonly grid: Grid;
  readonly wanted: readonly Wanted[];
  readonly lines: readonly AskedLines[];
}

function planned(work: SignalWork, grid: Grid): Planned | (Worked & { kind: 'fault' }) {
  return faultsAsData<Planned>(() => {
    const prepared = prepare(work.signal);
    const lines = wantedLinesOf(prepared, grid).map((one) => ({
      ...one,
      until: work.linesUntil[one.row.name] ?? work.completeUntil,
      accounts: work.lineAccounts ?? null
    }));
    return { kind: 'planned', work, grid, wanted: wantedOf(prepared, grid), lines };
  });
}

function worked(
  { work, grid, wanted }: Planned,
  readings: Map<string, Reading>,
  aligned: Map<string, Float64Array>,
  counted: CountedLines,
  { spans, head }: Sources
): Worked {
  const began = performance.now();
  const pointsOf = (pick: SignalPick, source: Source, on: Grid): SummaryPoints =>
    readingOf(readings, pick, source, on).points.get(source.id) as SummaryPoints;
  const read: Readings = {
    aligned: (source, on, statistic) => {
      const key = `${source.id} ${statistic} ${on.start} ${on.step} ${on.count}`;
      let values = aligned.get(key);
      if (!values) {
        const points = pointsOf({ statistic } as SignalPick, source, on);
        values = isOfGrowth(statistic)
          ? growSeries(points, on, growthKind(source), source.samplingMs, statistic, source.stamp)
          : alignSeries(points, on, statistic);
        aligned.set(key, values);
      }
      return values;
    },
    pooled: (group, on, statistic) =>
      groupSeries(
        group.map((source) => pointsOf({ statistic } as SignalPick, source, on)),
        on,
        statistic satisfies PooledStatistic
      ),
    newest: ({ id }) => newestOf(id, { spans, head }),
    counted: ({ lines }, on) => counted.tableOf(lines, on)
  };
  return faultsAsData(() => {
    const evaluation = evaluateSignal(
      prepare(work.signal),
      grid,
      (row) => work.sources[row] ?? [],
      read,
      work.completeUntil
    );
    const used = new Set<Reading>();
    const series = new Set<number>();
    for (const { row, grid: on } of wanted)
      for (const source of work.sources[row.name] ?? []) {
        used.add(readingOf(readings, row.pick, source, on));
        series.add(source.id);
      }
    let points = 0;
    for (const reading of used) for (const [id, { at }] of reading.points) if (series.has(id)) points += at.length;
    const resolution = Math.min(...[...used].map((reading) => reading.resolution));
    const effort = {
      series: series.size,
      points,
      resolution: Number.isFinite(resolution) ? resolution : 0,
      milliseconds: performance.now() - began
    };
    return {
      kind: 'worked',
      grid,
      effort,
      rows: evaluation.rows,
      notes: [...work.notes, ...counted.notes, ...evaluation.notes]
    };
  });
}

/** The reading that serves a source on a grid; a new empty one when there is none yet. */
function readingOf(
  readings: Map<string, Reading>,
  { statistic }: { readonly statistic: Statistic },
  source: Source,
  grid: Grid
): Reading {
  const lead = isOfGrowth(statistic) ? (longestOrdinary + 1) * source.samplingMs : 0;
  const resolution = resolutionOn(grid, statistic);
  const span = range(instant(Math.max(0, grid.start - lead)), instant(gridEnd(grid) + lead));
  const key = `${resolution} ${span.from} ${span.to}`;
  let reading = readings.get(key);
  if (!reading) readings.set(key, (reading = { span, resolution, ids: new Set(), points: new Map() }));
  return reading;
}

/** Rollups answer for a grid only when their cells fall into its cells whole: those of a day in a zone half an hour off need the finer ones. */
function resolutionOn({ start, step, calendar }: Grid, statistic: Statistic): number {
  const fits = (resolution: number): boolean => (calendar?.edges ?? [start]).every((edge) => edge % resolution === 0);
  return resolutionFor(step, statistic, fits);
}

const growthKind = ({ kind }: Source): 'delta' | 'cumulative' => (kind === 'delta' ? 'delta' : 'cumulative');

function faultsAsData<Result>(work: () => Result): Result | (Worked & { kind: 'fault' }) {
  try {
    return work();
  } catch (error) {
    return faultOf(error);
  }
}

function faultOf(error: unknown): Worked & { kind: 'fault' } {
  if (!(error instanceof Refusal)) throw error;
  return { kind: 'fault', problem: problemOf(error) };
}
