import { GrowingPoints, samePoint, type BatchBlock, type SummaryPoints } from '$lib/core/series';

/** The samples that are not sealed yet, in memory, by series. It is never the only copy: it is rebuilt from the journal. */
export class Head {
  #series = new Map<number, GrowingPoints>();

  /** Takes in the blocks of one batch, in the order of the journal: the newest write of an instant wins. */
  take(blocks: readonly BatchBlock[]): void {
    for (const { seriesId, points } of blocks) {
      let series = this.#series.get(seriesId);
      if (!series) this.#series.set(seriesId, (series = new GrowingPoints(8)));
      series.write(points);
    }
  }

  /**
   * The part of a batch that says anything new here: points that are not in the head, or with other values. Blocks that say nothing are left out.
   *
   * @example head.newOf(blocks) // [] when every point is known already
   */
  newOf(blocks: readonly BatchBlock[]): BatchBlock[] {
    return blocks.flatMap(({ seriesId, points }) => {
      const series = this.#series.get(seriesId);
      // The usual case: everything lies behind what is known.
      if (points.at.length > 0 && (this.newest(seriesId) ?? -Infinity) < (points.at[0] as number))
        return [{ seriesId, points }];
      return newAgainst(series?.used() ?? null, { seriesId, points });
    });
  }

  /** The points of a series; null when it has none here. */
  pointsOf(seriesId: number): SummaryPoints | null {
    const series = this.#series.get(seriesId);
    return series && series.length > 0 ? series.used() : null;
  }

  /** Start of the oldest and the newest sample here; null when there is none. */
  newest(seriesId: number): number | null {
    return this.#series.get(seriesId)?.newest ?? null;
  }

  oldest(seriesId: number): number | null {
    return this.#series.get(seriesId)?.oldest ?? null;
  }

  clear(): void {
    this.#series = new Map();
  }
}

/**
 * The points of a block that are not among known ones, or have other values there; no block when there are none.
 *
 * @example newAgainst(known, block) // [] when all are known
 */
export function newAgainst(known: SummaryPoints | null, block: BatchBlock): BatchBlock[] {
  const { seriesId, points } = block;
  if (points.at.length === 0) return [];
  if (known === null) return [block];
  const keep: number[] = [];
  let place = 0;
  for (let i = 0; i < points.at.length; i++) {
    const at = points.at[i] as number;
    while (place < known.at.length && (known.at[place] as number) < at) place++;
    if (known.at[place] !== at || !samePoint(known, place, points, i)) keep.push(i);
  }
  if (keep.length === 0) return [];
  return [{ seriesId, points: keep.length === points.at.length ? points : pick(points, keep) }];
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
