import { startThread } from '../base/built';
import type { Database } from '../db/pool';
import type { Health } from '../base/health';

/** How long each may take before the process is ended, ms of real time. */
export interface WatchdogLimits {
  /** The event loop does not come round. */
  readonly loop: number;
  /** The database confirms no commit. Longer than the longest statement may take. */
  readonly database: number;
  /** Closing does not end. */
  readonly closing: number;
}

export const usualLimits: WatchdogLimits = { loop: 60_000, database: 180_000, closing: 25_000 };

/** Places in the memory that both threads see: each a time of the monotonic clock, in ms. */
export const places = { loop: 0, database: 1, closing: 2 } as const;

/** How often a commit is requested, ms. */
const probeEvery = 5_000;

/** Monotonic time that all threads of a process share, ms. */
export const sharedTime = (): bigint => process.hrtime.bigint() / 1_000_000n;

export interface Watchdog {
  /** Closing has begun and must end in time. */
  closing(): void;
  stop(): Promise<void>;
}

/**
 * Watches this process from a thread of its own. When the event loop hangs, the database confirms nothing, or closing does not end, it says so on the error stream and
 * ends the process: whoever started it can start it again, and what was acknowledged is in the log.
 *
 * @example const watchdog = startWatchdog(db, health); await watchdog.stop()
 */
export function startWatchdog(db: Database, health: Health, limits: WatchdogLimits = usualLimits): Watchdog {
  const memory = new SharedArrayBuffer(3 * BigInt64Array.BYTES_PER_ELEMENT);
  const times = new BigInt64Array(memory);
  const note = (place: number) => Atomics.store(times, place, sharedTime());
  note(places.loop);
  note(places.database);
  const thread = startThread('process/watchdog.worker.ts', { memory, limits });
  thread.unref();
  const beat = setInterval(() => note(places.loop), Math.min(1000, limits.loop / 4));
  let probing = false;
  const probe = setInterval(
    () => {
      if (probing) return;
      probing = true;
      commitOnce(db).then(
        () => {
          probing = false;
          health.committed();
          note(places.database);
        },
        () => (probing = false) // its age is what counts
      );
    },
    Math.min(probeEvery, limits.database / 4)
  );
  return {
    closing: () => void note(places.closing),
    stop: async () => {
      clearInterval(beat);
      clearInterval(probe);
      await thread.terminate();
    }
  };
}

/** A commit that is written to the log: a database can still answer reads when it cannot write any more. */
const commitOnce = (db: Database): Promise<unknown> =>
  db.rows('update health_probe set commits = commits + 1 where one');
