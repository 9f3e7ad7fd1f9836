import type { Clock } from '$lib/core/time';
import type { Database } from '../../db/pool';
import { allCollections } from '../../intake/ledger/collections';
import type { StoreClient } from '../../store/open-store';
import type { Arrivals as Arrived } from './arrivals';

/** What looking at arrivals needs. */
export interface Arrivals {
  readonly db: Database;
  readonly clock: Clock;
  readonly store: StoreClient;
}

/** What has arrived by now. */
export const arrivedNow = async ({ db, clock, store }: Arrivals): Promise<Arrived> => ({
  now: clock.now(),
  collections: await allCollections(db),
  newest: (ids) => store.samples.newest(ids)
});
