import type { Instant } from '$lib/core/time';
import type { Series } from '../inventory/series';
import type { Resolved } from '../query/signals/resolve';

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
