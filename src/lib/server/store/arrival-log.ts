import type { BatchBlock } from '$lib/core/series';
import { cellAt, type Grid, type Instant } from '$lib/core/time';

/** Which samples came with one batch. */
interface Arrival {
  readonly receivedAt: Instant;
  /** The earliest instant in it, ms since the epoch. */
  readonly base: number;
  /** Series, and the instants of their first and last sample in it, ms since the base. */
  readonly series: Int32Array;
  readonly first: Int32Array;
  readonly last: Int32Array;
}

/** For how long it is remembered when samples came, and of how many of them at most, ms and series of batches. */
const rememberedFor = 600_000;
const mostSeries = 1_000_000;
/** What lies farther behind the first sample of a batch is not remembered, ms: three weeks of history. */
const farthest = 2 ** 31 - 1;

/** Remembers when the samples of the last ten minutes came, batch by batch: what an alarm was decided on is stored with it. */
export class ArrivalLog {
  /** By the id of the batch, the oldest first. */
  readonly #arrivals = new Map<number, Arrival>();
  #series = 0;

  /** Notes a batch of the journal; one that is read once more is known. */
  note(id: number, receivedAt: Instant, blocks: readonly BatchBlock[]): void {
    if (this.#arrivals.has(id)) return;
    const filled = blocks.filter(({ points }) => points.at.length > 0);
    const base = filled.reduce((least, { points }) => Math.min(least, points.at[0] as number), Infinity);
    const since = (at: number) => Math.min(farthest, at - base);
    const series = Int32Array.from(filled, ({ seriesId }) => seriesId);
    const first = Int32Array.from(filled, ({ points }) => since(points.at[0] as number));
    // Mostly there is one sample of each series.
    const isOne = filled.every(({ points }) => points.at.length === 1);
    const last = isOne ? first : Int32Array.from(filled, ({ points }) => since(points.at.at(-1) as number));
    this.#arrivals.set(id, { receivedAt, base, series, first, last });
    this.#series += filled.length;
    for (const [old, arrival] of this.#arrivals) {
      if (receivedAt - arrival.receivedAt < rememberedFor && this.#series <= mostSeries) break;
      this.#arrivals.delete(old);
      this.#series -= arrival.series.length;
    }
  }

  /**
   * When the newest sample of each cell of a series came; null where that is not known any more, or none came.
   *
   * @example log.of(7, grid) // [null, 1777881660000, 1777881720000]
   */
  of(seriesId: number, grid: Grid): (Instant | null)[] {
    const came: (Instant | null)[] = Array.from({ length: grid.count }, () => null);
    const end = grid.start + grid.count * grid.step;
    for (const { receivedAt, base, series, first, last } of this.#arrivals.values()) {
      for (let i = series.indexOf(seriesId); i !== -1; i = series.indexOf(seriesId, i + 1)) {
        const [from, to] = [base + (first[i] as number), base + (last[i] as number)];
        if (to < grid.start || from >= end) continue;
        const until = Math.min(grid.count - 1, cellAt(grid, to));
        for (let cell = Math.max(0, cellAt(grid, from)); cell <= until; cell++)
          came[cell] = Math.max(came[cell] ?? 0, receivedAt) as Instant;
      }
    }
    return came;
  }
}
