import type { Logger } from 'pino';
import { hour, type Clock } from '$lib/core/time';
import type { Duties } from '../duties/duties';
import type { LogClient } from './open-logs';

/** How often, in real time, it is looked whether lines are to be sealed, ms. */
const lookEveryMs = 10_000;

/**
 * Moves lines that have waited, or are many, into segments, and removes those whose time is over.
 *
 * @returns what stops it, letting running work end
 */
export function startSealing({
  logs,
  clock,
  log,
  duties
}: {
  readonly logs: LogClient;
  /** One of several processes does it. */
  readonly duties: Duties;
  readonly clock: Clock;
  readonly log: Logger;
}): { stop(): Promise<void> } {
  let running: Promise<unknown> | null = null;
  let tidiedAt = 0;
  const work = async (): Promise<void> => {
    const now = clock.now();
    await logs.logs.seal(now);
    if (now - tidiedAt < hour && now >= tidiedAt) return;
    tidiedAt = now;
    await logs.logs.retain(now);
  };
  const timer = setInterval(() => {
    running ??= duties
      .during('sealing lines', work)
      .then(() => undefined)
      .catch((error: unknown) => log.error({ err: error }, 'lines could not be sealed or removed; it is tried again'))
      .finally(() => (running = null));
  }, lookEveryMs);
  return {
    stop: async () => {
      clearInterval(timer);
      await running;
    }
  };
}
