import { completeUntil, gapsFinalUntil, silenceAfter } from '$lib/core/alarm';
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
  arrivals: Arrivals,
  resolved: Resolved,
  step: Duration = duration(1)
): Promise<ReadonlyMap<number, Instant>> {
  return new Map([...(await arrivalsOf(arrivals, resolved, step))].map(([id, { complete }]) => [id, complete]));
}

/** How far the cells of a series are complete, and how far its gaps are final. */
export interface ArrivedUntil {
  readonly complete: Instant;
  readonly gapsFinal: Instant;
}

/** {@link completeUntilOf}, with up to where gaps are final. */
export async function arrivalsOf(
  { now, collections, newest: newestOf }: Arrivals,
  { signal, series }: Resolved,
  step: Duration
): Promise<ReadonlyMap<number, ArrivedUntil>> {
  const byService = new Map(collections.map((one) => [`${one.accountId} ${one.service}`, one]));
  const all = new Map<number, ArrivedUntil>();
  for (const { name, statistic } of picksOf(signal)) {
    const picked = series[name] ?? [];
    const newest = await newestOf(picked.map(({ id }) => id));
    for (const [index, one] of picked.entries()) {
      const collection = byService.get(`${one.accountId} ${one.service}`);
      const waits = waitsForNext(statistic, one.kind, one.samplingMs, one.stamp);
      const arrival = {
        now,
        newest: (newest[index] ?? null) as Instant | null,
        sampling: duration(one.samplingMs - waits),
        delay: duration(one.delayMs + waits),
        askedUntil: askedUntil(collection, now),
        failing: collection !== undefined && collection.lastError !== null
      };
      const complete = completeUntil(arrival, step);
      const gapsFinal = gapsFinalUntil(arrival, step);
      const known = all.get(one.id) ?? { complete, gapsFinal };
      all.set(one.id, {
        complete: Math.min(complete, known.complete) as Instant,
        gapsFinal: Math.min(gapsFinal, known.gapsFinal) as Instant
      });
    }
  }
  return all;
}

/** Who sends samples by itself cannot be asked: after a while of silence nothing is expected any more. */
function askedUntil(collection: Collection | undefined, now: Instant): Instant | null {
  const silent = before(now, silenceAfter);
  if (collection === undefined) return silent;
  return collection.service === pushedService
    ? (Math.max(collection.pulledUntil ?? 0, silent) as Instant)
    : collection.pulledUntil;
}
