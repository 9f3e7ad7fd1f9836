import type { Instant } from '$lib/core/time';
import type { Series } from '../inventory/series';
import type { Queryable } from '../db/pool';
import { removedAccounts } from '../inventory/accounts';
import type { Resolved } from '../query/signals/resolve';

/** The latest of some instants; the epoch when there are none. */
export const latestOf = (complete: ReadonlyMap<number, Instant>): Instant => {
  let latest = 0;
  for (const at of complete.values()) if (at > latest) latest = at;
  return latest as Instant;
};

/**
 * What an alarm watches of a signal: boards still show the history of an account that was removed, but nothing more will happen there.
 *
 * @param now leaves out series of resources that their providers say ended before it; null keeps them, for what is judged of the past
 */
export async function stillWatched(db: Queryable, resolved: Resolved, now: Instant | null): Promise<Resolved> {
  const removed = new Set((await removedAccounts(db)).map(({ id }) => id));
  const series = Object.fromEntries(
    Object.entries(resolved.series).map(([row, all]) => [
      row,
      all.filter(
        ({ accountId, endedAt }) => !removed.has(accountId) && (now === null || endedAt === null || endedAt > now)
      )
    ])
  );
  return { ...resolved, series };
}

/** The series of every row by id. */
export const seriesById = ({ series }: Pick<Resolved, 'series'>): ReadonlyMap<number, Series> =>
  new Map(
    Object.values(series)
      .flat()
      .map((one) => [one.id, one])
  );
