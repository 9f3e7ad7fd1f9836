import { completeUntil, silenceAfter } from '$lib/core/alarm';
import { waitsForNext } from '$lib/core/series';
import { picksOf } from '$lib/core/signal';
import { before, duration, type Duration, type Instant } from '$lib/core/time';
import { pushedService, type Collection } from '../../intake/ledger/collections';
import type { Resolved } from './resolve';

/** What is known of what arrives. */
export interface Arrivals {
  readonly now: Instant;
  readonly collections: readonly Collection[];
  /** Start of the newest sample of each series; null where there is none. */
  readonly newest: (seriesIds: readonly number[]) => (number | null)[] | Promise<(number | null)[]>;
}

/**
 * Up to where the cells of each series that a signal picks are complete, by the series' id. One that several rows pick counts as the last of them to be complete. Panels, the bench, the API and
 * alarms all ask this: a cell counts as soon as, and not before, it is complete.
 *
 * @param step to whole multiples of which instants are rounded down, the length of the cells; by default they are not
 */
export async function completeUntilOf(
  { now, collections, newest: newestOf }: Arrivals,
  { signal, series }: Resolved,
  step: Duration = duration(1)
): Promise<ReadonlyMap<number, Instant>> {
  const byService = new Map(collections.map((one) => [`${one.accountId} ${one.service}`, one]));
  const complete = new Map<number, Instant>();
  for (const { name, statistic } of picksOf(signal)) {
    const picked = series[name] ?? [];
    const newest = await newestOf(picked.map(({ id }) => id));
    for (const [index, one] of picked.entries()) {
      const collection = byService.get(`${one.accountId} ${one.service}`);
      const waits = waitsForNext(statistic, one.kind, one.samplingMs, one.stamp);
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
