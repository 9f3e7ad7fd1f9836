import {
  alignSeries,
  GrowingPoints,
  samePoint,
  type BatchBlock,
  type Frame,
  type Statistic,
  type SummaryPoints
} from '$lib/core/series';
import { gridOver, type Duration, type Range } from '$lib/core/time';

/** The samples in memory, by series. It is never the only copy: it is rebuilt from the journal. */
export class Head {
  readonly #series = new Map<number, GrowingPoints>();

  /** Takes in the blocks of one batch, in the order of the journal: the newest write of an instant wins. */
  take(blocks: readonly BatchBlock[]): void {
    for (const { seriesId, points } of blocks) {
      let series = this.#series.get(seriesId);
      if (!series) this.#series.set(seriesId, (series = new GrowingPoints()));
      series.write(points);
    }
  }

  /**
   * The part of a batch that says anything new: points not yet here, or with other values. Blocks that say nothing are left out.
   *
   * @example head.newOf(blocks) // [] when every point is known already
   */
  newOf(blocks: readonly BatchBlock[]): BatchBlock[] {
    return blocks.flatMap(({ seriesId, points }) => {
      const series = this.#series.get(seriesId);
      // The usual case: everything lies behind what is known.
      if (points.at.length > 0 && (this.newest(seriesId) ?? -Infinity) < (points.at[0] as number))
        return [{ seriesId, points }];
      const keep: number[] = [];
      for (let i = 0; i < points.at.length; i++) {
        const known = series ? series.find(points.at[i] as number) : -1;
        if (known === -1 || !samePoint(series as GrowingPoints, known, points, i)) keep.push(i);
      }
      if (keep.length === 0) return [];
      return [{ seriesId, points: keep.length === points.at.length ? points : pick(points, keep) }];
    });
  }

  /** Start of the newest sample of a series; null when it has none. */
  newest(seriesId: number): number | null {
    const series = this.#series.get(seriesId);
    return series && series.length > 0 ? (series.at[series.length - 1] as number) : null;
  }

  /** The series asked for, brought onto the smallest grid over the range; those without samples are columns of gaps. */
  frame(seriesIds: readonly number[], range: Range, step: Duration, statistic: Statistic): Frame {
    const grid = gridOver(range, step);
    const columns = seriesIds.map((seriesId) => {
      const series = this.#series.get(seriesId);
      const values = series
        ? alignSeries(series, grid, statistic, series.length)
        : new Float64Array(grid.count).fill(NaN);
      return { seriesId, values, newest: this.newest(seriesId) };
    });
    return { grid, columns };
  }
}

const pick = (points: SummaryPoints, indices: readonly number[]): SummaryPoints => {
  const column = (from: Float64Array) => Float64Array.from(indices, (index) => from[index] as number);
  return {
    at: column(points.at),
    sum: column(points.sum),
    count: column(points.count),
    min: column(points.min),
    max: column(points.max)
  };
};
