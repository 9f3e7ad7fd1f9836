// series: interval_ms, started_at
import type { ReceivedPoint, ReceivedSeries } from '$lib/core/receive';
import { median } from 'simple-statistics';
import { day } from '$lib/core/time';
import type { Queryable } from '../../db/pool';

/** What is known of how the samples of one series come. */
interface Known {
  readonly seriesId: number;
  /** How far apart they come, ms; null until that is known. */
  intervalMs: number | null;
  /** Since when its running total counts; null when nobody said. */
  startedAt: number | null;
  /** Its newest sample; null before the first since the process started. */
  newest: number | null;
  /** The newest distances between samples, oldest first. */
  distances: number[];
}

/** Distances between samples from which an interval is learned. */
const mostDistances = 9;

/** Something learned that is to be written down. */
export type Learned = Pick<Known, 'seriesId' | 'intervalMs' | 'startedAt'>;

/** Series of which what was learned is remembered; the rest is read again. */
const mostRemembered = 200_000;

/**
 * Learns, of each series that other programs send, how far apart its samples come and when its running total began anew.
 *
 * What was sent says how long a change lasted, by its start (OTLP): the longest counts, since a change reaches back no further than to the one before it. Where nothing is said, the interval is the median
 * of the newest distances between samples, so that one outage does not change it.
 */
export class Intervals {
  readonly #db: Queryable;
  readonly #known = new Map<number, Known>();

  constructor(db: Queryable) {
    this.#db = db;
  }

  /**
   * Learns from points that are about to be stored.
   *
   * @param all series with their ids
   * @returns the points to store, a zero put where a running total began anew, and what was learned
   */
  async learn(
    all: readonly { readonly seriesId: number; readonly series: ReceivedSeries }[]
  ): Promise<{ readonly points: readonly (readonly ReceivedPoint[])[]; readonly learned: readonly Learned[] }> {
    await this.#read(all.map(({ seriesId }) => seriesId).filter((id) => !this.#known.has(id)));
    const learned: Learned[] = [];
    const points = all.map(({ seriesId, series }) => {
      const known = this.#known.get(seriesId);
      if (known === undefined) return series.points; // removed in between
      const before = { ...known };
      const sorted = series.points
        .map((point, index) => ({ point, start: series.starts[index] ?? null }))
        .sort((one, other) => one.point[0] - other.point[0]);
      const stored = series.metric.kind === 'cumulative' ? withResets(sorted, known) : series.points;
      learnInterval(series.metric.kind, sorted, known);
      if (before.intervalMs !== known.intervalMs || before.startedAt !== known.startedAt)
        learned.push({ seriesId, intervalMs: known.intervalMs, startedAt: known.startedAt });
      return stored;
    });
    return { points, learned };
  }

  async #read(ids: readonly number[]): Promise<void> {
    if (ids.length === 0) return;
    if (this.#known.size + ids.length > mostRemembered) this.#known.clear();
    const rows = await this.#db.rows<{ id: number; intervalMs: number | null; startedAt: number | null }>(
      'select id, interval_ms as "intervalMs", started_at as "startedAt" from series where id = any($1)',
      [ids]
    );
    for (const { id, intervalMs, startedAt } of rows)
      this.#known.set(id, { seriesId: id, intervalMs, startedAt, newest: null, distances: [] });
  }
}

/** Writes down what was learned. */
export async function noteLearned(db: Queryable, learned: readonly Learned[]): Promise<void> {
  if (learned.length === 0) return;
  await db.rows(
    `update series
     set interval_ms = learned.interval_ms, started_at = learned.started_at
     from unnest($1::integer[], $2::integer[], $3::bigint[]) as learned (id, interval_ms, started_at)
     where series.id = learned.id`,
    [
      learned.map(({ seriesId }) => seriesId),
      learned.map(({ intervalMs }) => intervalMs),
      learned.map(({ startedAt }) => startedAt)
    ]
  );
}

interface Started {
  readonly point: ReceivedPoint;
  readonly start: number | null;
}

/** A total that says since when it counts was zero then: that says it began anew, also when it is higher than before. */
function withResets(sorted: readonly Started[], known: Known): ReceivedPoint[] {
  const points: ReceivedPoint[] = [];
  let newest = known.newest;
  for (const { point, start } of sorted) {
    const [at] = point;
    if (start !== null && (known.startedAt === null || start > known.startedAt)) {
      const zero = Math.max(start, newest === null ? 0 : newest + 1);
      if (zero < at && at - zero <= day) points.push([zero, 0, 1, 0, 0]);
      known.startedAt = start;
    }
    points.push(point);
    newest = newest === null ? at : Math.max(newest, at);
  }
  return points;
}

function learnInterval(kind: ReceivedSeries['metric']['kind'], sorted: readonly Started[], known: Known): void {
  let longest = 0;
  let lasted = 0;
  for (const {
    point: [at],
    start
  } of sorted) {
    if (kind === 'delta' && start !== null) {
      longest = Math.max(longest, at - start);
      lasted++;
    }
    if (known.newest !== null && at > known.newest) {
      known.distances.push(at - known.newest);
      if (known.distances.length > mostDistances) known.distances.shift();
    }
    known.newest = known.newest === null ? at : Math.max(known.newest, at);
  }
  if (lasted === sorted.length && lasted > 0) {
    if (longest > (known.intervalMs ?? 0)) known.intervalMs = Math.min(day, longest);
    return;
  }
  // One distance is better than none, but no reason to doubt what was learned from many.
  if (known.distances.length < (known.intervalMs === null ? 1 : 3)) return;
  const usual = Math.min(day, Math.max(1, Math.round(median(known.distances))));
  const isClose = known.intervalMs !== null && Math.abs(usual - known.intervalMs) <= known.intervalMs / 10;
  if (!isClose) known.intervalMs = usual;
}
