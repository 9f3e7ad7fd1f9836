import { createHash } from 'node:crypto';
import { RateLimiterMemory, RateLimiterPostgres, type RateLimiterRes } from 'rate-limiter-flexible';
import type { Queryable } from '../db/pool';

/** Counts tries of whoever a key stands for. */
export interface Limiter {
  /** @throws RateLimiterRes where there are too many */
  consume(key: string | number): Promise<RateLimiterRes>;
  /** Gives one back. */
  reward(key: string | number): Promise<unknown>;
  delete(key: string | number): Promise<unknown>;
  get(key: string | number): Promise<RateLimiterRes | null>;
}

export interface LimitOptions {
  /** How many there may be within so many seconds. */
  readonly points: number;
  readonly duration: number;
  /** Parts its keys from those of others. */
  readonly keyPrefix: string;
}

/** Makes what limits: for a process alone, or for all that work on a database. */
export type MakeLimiter = (options: LimitOptions) => Limiter;

/** Counts what comes to this process. */
export const ownLimits: MakeLimiter = (options) => new RateLimiterMemory(options);

/**
 * Counts what comes to all processes on a database, in the table `limits`: whoever is refused by one is not let in by the next. Keys are names and addresses of people; their digests are stored.
 *
 * @example const limiter = sharedLimits(db)({ points: 8, duration: 900, keyPrefix: 'name' }); await limiter.consume('nerea@192.0.2.7')
 */
export const sharedLimits =
  (db: Queryable): MakeLimiter =>
  (options) => {
    const limiter = new RateLimiterPostgres({
      ...{ ...options, tableName: 'limits', tableCreated: true, storeType: 'client' },
      storeClient: {
        query: async ({ text, values }: { readonly text: string; readonly values: readonly unknown[] }) => {
          const rows = await db.rows(text, values);
          return { rows, rowCount: rows.length };
        }
      }
    });
    const digest = (key: string | number): string => createHash('sha256').update(String(key)).digest('base64url');
    return {
      consume: (key) => limiter.consume(digest(key)),
      reward: (key) => limiter.reward(digest(key)),
      delete: (key) => limiter.delete(digest(key)),
      get: (key) => limiter.get(digest(key))
    };
  };
