import {
  alignSeries,
  firstAtOrAfter,
  GrowingPoints,
  joinPoints,
  rollupSteps,
  slicePoints,
  type Frame,
  type FrameColumn,
  type Statistic,
  type SummaryPoints
} from '$lib/core/series';
import { gridEnd, gridOver, type Duration, type Range } from '$lib/core/time';
import type { ChunkCache } from './chunk-cache';
import { periodsIn, type ChunkKey, type SeriesSpan } from './chunks';
import type { Head } from './head';

/** Statistics that a rollup answers exactly: it keeps sum, count, min and max, but not which sample was the last. */
const rollable: ReadonlySet<Statistic> = new Set(['avg', 'min', 'max', 'sum', 'count']);

/**
 * The coarsest resolution that answers exactly: rollups whose cells fill the grid's cells, else the samples themselves (0).
 *
 * @param fits whether the cells of a rollup fall into those of the grid whole, besides by their length
 * @example resolutionFor(duration(7_200_000), 'max') // 3600000
 */
export const resolutionFor = (
  step: Duration,
  statistic: Statistic,
  fits: (rollup: number) => boolean = () => true
): number =>
  rollable.has(statistic) ? (rollupSteps.findLast((rollup) => step % rollup === 0 && fits(rollup)) ?? 0) : 0;

/** What reading works with: sealed chunks, how far they reach, and what is not sealed yet. */
export interface Sources {
  readonly cache: ChunkCache;
  readonly spans: ReadonlyMap<number, SeriesSpan>;
  readonly head: Head;
}

/** A part of a range that is read at one resolution. */
interface Part {
  readonly from: number;
  readonly to: number;
  readonly resolution: number;
  readonly keys: readonly ChunkKey[];
}

/** One series as it is to be read: rollups, but samples in each cell that the head has a sample of, since they change it. */
interface Plan {
  readonly seriesId: number;
  readonly span: SeriesSpan | undefined;
  readonly touched: readonly Cells[];
  readonly parts: readonly Part[];
}

/** Cells of a rollup that follow each other: from the start of the first to the end of the last. */
interface Cells {
  readonly from: number;
  readonly to: number;
}

/** The cells that unsealed points fall into, within a range. @example cellsOf(points, range, 3_600_000) // [{ from: 0, to: 7_200_000 }] */
function cellsOf(unsealed: SummaryPoints | null, { from, to }: Range, resolution: number): Cells[] {
  const cells: { from: number; to: number }[] = [];
  if (unsealed === null) return cells;
  const { at } = unsealed;
  for (let i = firstAtOrAfter(at, at.length, from); i < at.length && (at[i] as number) < to; i++) {
    const start = Math.floor((at[i] as number) / resolution) * resolution;
    const last = cells.at(-1);
    if (last !== undefined && start < last.to) continue;
    if (last?.to === start) last.to += resolution;
    else cells.push({ from: start, to: start + resolution });
  }
  return cells;
}

/** Plans a reading of a half-open range. */
function planned(seriesId: number, range: Range, resolution: number, { spans, head }: Sources): Plan {
  const span = spans.get(seriesId);
  const touched = resolution === 0 || !span ? [] : cellsOf(head.pointsOf(seriesId), range, resolution);
  if (!span) return { seriesId, span, touched, parts: [] };
  const part = (kind: number, from: number, to: number): Part => ({
    ...{ from, to, resolution: kind },
    keys: periodsIn(
      kind,
      Math.max(from, kind === 0 ? span.oldest : Math.floor(span.oldest / kind) * kind),
      Math.min(to, span.newest + 1)
    ).map((periodFrom) => ({ accountId: span.accountId, seriesId, resolution: kind, periodFrom }))
  });
  const parts: Part[] = [];
  let { from } = range as Cells;
  for (const cells of touched) {
    if (cells.from > from) parts.push(part(resolution, from, cells.from));
    parts.push(part(0, Math.max(from, cells.from), Math.min(range.to, cells.to)));
    from = cells.to;
  }
  if (from < range.to) parts.push(part(resolution, from, range.to));
  return { seriesId, span, touched, parts };
}

/**
 * Reads points of several series over a half-open range, rollups of a resolution where they are sealed.
 *
 * @param resolution of the rollups to use; 0 reads samples alone
 * @returns for each series its points in order, or null when the sources changed meanwhile in a way that needs another read
 */
async function readOnce(
  seriesIds: readonly number[],
  range: Range,
  resolution: number,
  sources: Sources
): Promise<SummaryPoints[] | null> {
  const plans = seriesIds.map((seriesId) => planned(seriesId, range, resolution, sources));
  const sealed = await sources.cache.read(plans.flatMap(({ parts }) => parts.flatMap(({ keys }) => keys)));
  let next = 0;
  const points = plans.map(({ seriesId, parts }) => {
    const read = parts.flatMap(({ keys, from, to }) =>
      keys.map(() => slicePoints(sealed[next++] as SummaryPoints, from, to))
    );
    return withHead(joinPoints(read), sources.head.pointsOf(seriesId), range);
  });
  const moved = plans.some((plan) => isMoved(plan, planned(plan.seriesId, range, resolution, sources)));
  return moved ? null : points;
}

/** Whether a sample came into a cell that was read as a rollup. */
function isMoved({ span, touched: before }: Plan, { touched }: Plan): boolean {
  if (span === undefined) return false;
  return touched.some(
    ({ from, to }) =>
      from <= span.newest && !before.some((known) => known.from <= from && Math.min(to, span.newest + 1) <= known.to)
  );
}

function withHead(sealed: SummaryPoints, unsealed: SummaryPoints | null, { from, to }: Range): SummaryPoints {
  const fresh = unsealed === null ? null : slicePoints(unsealed, from, to);
  if (fresh === null || fresh.at.length === 0) return sealed;
  if (sealed.at.length === 0) return fresh;
  if ((sealed.at.at(-1) as number) < (fresh.at[0] as number)) return joinPoints([sealed, fresh]);
  const merged = new GrowingPoints(sealed.at.length + fresh.at.length);
  merged.write(sealed);
  merged.write(fresh);
  return merged.used();
}

/**
 * The points of series over a half-open range; with a resolution, sealed parts as rollups of it.
 *
 * @param settled waits until the head holds all that is not sealed, and gives a number that changes when sealed points leave the head: then what was read
 * meanwhile is read again
 */
export async function readPoints(
  seriesIds: readonly number[],
  range: Range,
  resolution: number,
  sources: () => Sources,
  settled: () => Promise<number>
): Promise<SummaryPoints[]> {
  const [points] = await readTogether([{ seriesIds, range, resolution }], sources, settled);
  return points as SummaryPoints[];
}

/** Series that are read over one span, at one resolution. */
export interface PointsWanted {
  readonly seriesIds: readonly number[];
  readonly range: Range;
  readonly resolution: number;
}

/** {@link readPoints} of several spans at one moment: the store settles once for all of them. @returns for each its series' points */
export async function readTogether(
  wanted: readonly PointsWanted[],
  sources: () => Sources,
  settled: () => Promise<number>
): Promise<SummaryPoints[][]> {
  for (;;) {
    const before = await settled();
    const all: SummaryPoints[][] = [];
    for (const { seriesIds, range, resolution } of wanted) {
      const points = await readOnce(seriesIds, range, resolution, sources());
      if (points === null) break;
      all.push(points);
    }
    if (all.length === wanted.length && (await settled()) === before) return all;
  }
}

/** Series brought onto the smallest grid over a range; those without samples are columns of gaps. */
export async function readFrame(
  seriesIds: readonly number[],
  range: Range,
  step: Duration,
  statistic: Statistic,
  sources: () => Sources,
  settled: () => Promise<number>
): Promise<Frame> {
  const grid = gridOver(range, step);
  const whole = { from: grid.start, to: gridEnd(grid) };
  const points = await readPoints(seriesIds, whole, resolutionFor(step, statistic), sources, settled);
  const columns = seriesIds.map((seriesId, index): FrameColumn => ({
    seriesId,
    values: alignSeries(points[index] as SummaryPoints, grid, statistic),
    newest: newestOf(seriesId, sources())
  }));
  return { grid, columns };
}

/** Start of the newest sample of a series, sealed or not; null when it has none. */
export function newestOf(seriesId: number, { spans, head }: Pick<Sources, 'spans' | 'head'>): number | null {
  const sealed = spans.get(seriesId)?.newest ?? null;
  const unsealed = head.newest(seriesId);
  return sealed === null ? unsealed : unsealed === null ? sealed : Math.max(sealed, unsealed);
}
