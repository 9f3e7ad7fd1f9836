import { scheduledAccounts } from '../../inventory/accounts';
import type { Provider } from '../../providers/port/provider';
import type { Intake } from './intake';

/**
 * Follows accounts as long as they are there, each on its own.
 *
 * @param has whether a provider has what is followed
 * @param follow goes on until the account is gone or the signal is aborted
 * @example const events = eachAccount(intake, ({ events }) => events !== undefined, followAccount); await events.tick()
 */
export function eachAccount(
  { db, providers }: Pick<Intake, 'db' | 'providers'>,
  has: (provider: Provider) => boolean,
  follow: (accountId: number, signal: AbortSignal) => Promise<void>
): { tick(): Promise<void>; stop(): Promise<void> } {
  const ending = new AbortController();
  const following = new Map<number, Promise<void>>();
  const isWanted = (name: string): boolean => {
    const provider = providers[name];
    return provider !== undefined && has(provider);
  };
  return {
    /** Begins with accounts that are not followed yet. */
    tick: async () => {
      for (const { id, provider, discoveredAt } of await scheduledAccounts(db))
        if (discoveredAt !== null && isWanted(provider) && !following.has(id) && !ending.signal.aborted)
          following.set(
            id,
            follow(id, ending.signal).finally(() => following.delete(id))
          );
    },
    stop: async () => {
      ending.abort();
      await Promise.all(following.values());
    }
  };
}

/** How often, in real time, it is looked whether there is another account, ms. */
const lookEveryMs = 2000;

/**
 * Looks for accounts that are not followed yet, again and again.
 *
 * @param failed told when they could not be listed
 * @returns what stops it, with all that follows
 */
export function keepLooking(
  following: ReturnType<typeof eachAccount>,
  failed: (error: unknown) => void
): { stop(): Promise<void> } {
  let looking: Promise<void> | null = null;
  const timer = setInterval(() => {
    looking ??= following
      .tick()
      .catch(failed)
      .finally(() => (looking = null));
  }, lookEveryMs);
  return {
    stop: async () => {
      clearInterval(timer);
      await looking;
      await following.stop();
    }
  };
}
