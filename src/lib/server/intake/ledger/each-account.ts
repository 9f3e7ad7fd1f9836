import { accountDuty } from '../../duties/duties';
import { scheduledAccounts } from '../../inventory/accounts';
import type { Provider } from '../../providers/port/provider';
import type { Intake } from './intake';

/**
 * Follows accounts as long as they are there and this process has them, each on its own.
 *
 * @param has whether a provider has what is followed
 * @param follow goes on until the account is gone or the signal is aborted
 * @example const events = eachAccount(intake, ({ events }) => events !== undefined, followAccount); await events.tick()
 */
export function eachAccount(
  { db, providers, duties }: Pick<Intake, 'db' | 'providers' | 'duties'>,
  has: (provider: Provider) => boolean,
  follow: (accountId: number, signal: AbortSignal) => Promise<void>
): { tick(): Promise<void>; stop(): Promise<void> } {
  const ending = new AbortController();
  const following = new Map<number, { readonly ended: Promise<unknown>; readonly ending: AbortController }>();
  const isWanted = (name: string): boolean => {
    const provider = providers[name];
    return provider !== undefined && has(provider);
  };
  /** What it has of an account stays its own for as long as it follows that, or another engine would begin in the middle. */
  function begin(id: number): void {
    if (duties.held(accountDuty(id)) === null) return;
    const own = new AbortController();
    const ended = duties
      .during(accountDuty(id), () => follow(id, AbortSignal.any([ending.signal, own.signal])))
      .finally(() => following.delete(id));
    following.set(id, { ended, ending: own });
  }
  return {
    /** Begins with accounts that are not followed yet. */
    tick: async () => {
      for (const { id, provider, discoveredAt } of await scheduledAccounts(db))
        if (discoveredAt !== null && isWanted(provider) && !following.has(id) && !ending.signal.aborted) begin(id);
      for (const [id, one] of following) if (duties.held(accountDuty(id)) === null) one.ending.abort();
    },
    stop: async () => {
      ending.abort();
      await Promise.all([...following.values()].map(({ ended }) => ended));
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
