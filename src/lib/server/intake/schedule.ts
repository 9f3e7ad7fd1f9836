import { allAccounts, type Account } from './accounts';
import { pullAccount, pullHistory, type Intake } from './pull';

/**
 * Decides which accounts are due and pulls each on its own: a slow or broken account never delays another. An account is never pulled twice at once.
 *
 * @example const schedule = scheduleIntake(intake); await schedule.tick()
 */
export function scheduleIntake(intake: Intake) {
  const pulling = new Map<number, Promise<unknown>>();
  const filling = new Map<number, Promise<unknown>>();
  let stopped = false;

  const begin = (running: Map<number, Promise<unknown>>, id: number, work: () => Promise<unknown>) => {
    if (running.has(id)) return;
    const done = work()
      .catch((error: unknown) => intake.log.error({ err: error, accountId: id }, 'intake failed'))
      .finally(() => running.delete(id));
    running.set(id, done);
  };

  async function fill(id: number): Promise<void> {
    while (!stopped && (await pullHistory(intake, id)));
  }

  return {
    /** Starts what is due at this moment; does not wait for it. */
    async tick(): Promise<void> {
      const now = intake.clock.now();
      for (const account of await allAccounts(intake.db)) {
        if (stopped) return;
        if (isDue(account, now)) begin(pulling, account.id, () => pullAccount(intake, account.id));
        if (isHistoryDue(account)) begin(filling, account.id, () => fill(account.id));
      }
    },
    /** Lets what is running come to its end. */
    async stop(): Promise<void> {
      stopped = true;
      await Promise.all([...pulling.values(), ...filling.values()]);
    }
  };
}

/** Due once the interval has passed, or at once when the clock was set back behind the last pull. */
const isDue = ({ lastPullAt, intervalMs }: Account, now: number): boolean =>
  lastPullAt === null || now - lastPullAt >= intervalMs || now < lastPullAt;

/** History waits until the account's last pull succeeded. */
const isHistoryDue = ({ lastError, historyReached, historyFrom }: Account): boolean =>
  lastError === null && historyReached !== null && historyReached > historyFrom;
