import type { Instant } from './instant';

/** Where the time of day comes from: handed to whatever needs it, read nowhere else. */
export interface Clock {
  now(): Instant;
}
