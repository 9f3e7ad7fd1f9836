import { completeUntil, silenceAfter } from '$lib/core/alarm';
import { waitsForNext } from '$lib/core/series';
import { picksOf } from '$lib/core/signal';
import { before, duration, type Clock, type Duration, type Instant } from '$lib/core/time';
import type { Database } from '../db/pool';
import { allCollections, pushedService, type Collection } from '../intake/collections';
import type { Series } from '../intake/series';
import type { Resolved } from '../signals/resolve';
import type { StoreClient } from '../store/open-store';

/** What looking at arrivals needs. */
export interface Arrivals {
  readonly db: Database;
  readonly clock: Clock;
  readonly store: StoreClient;
}

/**
 * Up to where the cells of each series that a signal picks are complete, by the series' id. One that several rows pick counts as the last of them to be complete.
 *
 * @param step the length of the cells
 */
export async function completeUntilOf(
  { db, clock, store }: Arrivals,
  { signal, series }: Resolved,
  step: Duration
): Promise<ReadonlyMap<number, Instant>> {
  const collections = await allCollections(db);
  const now = clock.now();
  const complete = new Map<number, Instant>();
  for (const { name, statistic } of picksOf(signal)) {
    const picked = series[name] ?? [];
    const newest = await store.samples.newest(picked.map(({ id }) => id));
    for (const [index, one] of picked.entries()) {
      const collection = collections.find(
        ({ accountId, service }) => accountId === one.accountId && service === one.service
      );
      const waits = waitsForNext(statistic, one.kind, one.samplingMs);
      const until = completeUntil(
        {
          now,
          newest: (newest[index] ?? null) as Instant | null,
          sampling: duration(one.samplingMs - waits),
          delay: duration(one.delayMs + waits),
          askedUntil: askedUntil(collection, now),
          failing: collection !== undefined && collection.lastError !== null
        },
        step
      );
      complete.set(one.id, Math.min(until, complete.get(one.id) ?? until) as Instant);
    }
  }
  return complete;
}

/** Who sends samples by itself cannot be asked: after a while of silence nothing is expected any more. */
function askedUntil(collection: Collection | undefined, now: Instant): Instant | null {
  const silent = before(now, silenceAfter);
  if (collection === undefined) return silent;
  return collection.service === pushedService
    ? (Math.max(collection.pulledUntil ?? 0, silent) as Instant)
    : collection.pulledUntil;
}

/** The latest of some instants; the epoch when there are none. */
export const latestOf = (complete: ReadonlyMap<number, Instant>): Instant => {
  let latest = 0;
  for (const at of complete.values()) if (at > latest) latest = at;
  return latest as Instant;
};

/** The series of every row by id. */
export const seriesById = ({ series }: Pick<Resolved, 'series'>): ReadonlyMap<number, Series> =>
  new Map(
    Object.values(series)
      .flat()
      .map((one) => [one.id, one])
  );
