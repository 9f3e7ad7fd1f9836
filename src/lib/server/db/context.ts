import type { Clock } from '$lib/core/time';
import type { Changes } from '../base/changes';
import type { Database } from './pool';

/** What nearly every use case needs: the database, the time of day, and whoever is to hear of changes. */
export interface Context {
  readonly db: Database;
  readonly clock: Clock;
  readonly changes: Changes;
}
