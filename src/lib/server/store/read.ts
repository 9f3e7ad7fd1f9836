import {
  alignSeries,
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

/** One series as it is to be read: rollups up to `split`, samples from there. */
interface Plan {
  readonly seriesId: number;
  readonly span: SeriesSpan | undefined;
  readonly split: number;
  readonly keys: readonly ChunkKey[];
}

/**
 * Plans a reading of a half-open range. What the head holds may change sealed cells, so samples are read from the first cell that it touches.
 */
function planned(seriesId: number, { from, to }: Range, resolution: number, { spans, head }: Sources): Plan {
  const span = spans.get(seriesId);
  const oldestUnsealed = head.oldest(seriesId);
  const split =
    resolution === 0
      ? from
      : Math.max(
          from,
          Math.min(to, oldestUnsealed === null ? to : Math.floor(oldestUnsealed / resolution) * resolution)
        );
  if (!span) return { seriesId, span, split, keys: [] };
  const of = (kind: number, start: number, end: number): ChunkKey[] =>
    periodsIn(
      kind,
      Math.max(start, kind === 0 ? span.oldest : Math.floor(span.oldest / kind) * kind),
      Math.min(end, span.newest + 1)
    ).map((periodFrom) => ({ accountId: span.accountId, seriesId, resolution: kind, periodFrom }));
  return { seriesId, span, split, keys: [...(resolution > 0 ? of(resolution, from, split) : []), ...of(0, split, to)] };
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
  const sealed = await sources.cache.read(plans.flatMap(({ keys }) => keys));
  let next = 0;
  const points = plans.map(({ seriesId, keys, split }) => {
    const parts = keys.map(({ resolution: kind }) => {
      const part = sealed[next++] as SummaryPoints;
      return kind === 0 ? slicePoints(part, split, range.to) : slicePoints(part, range.from, split);
    });
    return withHead(joinPoints(parts), sources.head.pointsOf(seriesId), range);
  });
  const moved = plans.some(({ seriesId, split }) => planned(seriesId, range, resolution, sources).split < split);
  return moved ? null : points;
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
