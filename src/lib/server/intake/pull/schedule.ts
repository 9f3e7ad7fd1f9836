import { planEvery, usualPlan } from '$lib/core/intake';
import type { Duration, Instant } from '$lib/core/time';
import { accountDuty, type Held } from '../../duties/duties';
import { scheduledAccounts } from '../../inventory/accounts';
import { allCollections, type Collection } from '../ledger/collections';
import { discoverAccount, isDiscoveryDue } from './discover';
import { allGaps } from './gaps';
import type { Intake } from '../ledger/intake';
import { count, timed } from '../../base/own-counters';
import { allPlans } from '../plan/plans';
import { fillPiece, pullService } from './pull';

/**
 * Decides what is due and does each on its own: a slow or broken account never delays another, nor one of its services another. The same is never done twice at once.
 *
 * @example const schedule = scheduleIntake(intake); await schedule.tick()
 */
export function scheduleIntake(intake: Intake) {
  const running = new Map<string, Promise<unknown>>();
  let stopped = false;

  const failures = new Failures();

  const begin = (name: string, accountId: number, work: (held: Held) => Promise<unknown>) => {
    if (running.has(name) || failures.isPausing(name, performance.now())) return;
    const done = intake.duties
      .during(accountDuty(accountId), work)
      .then(
        () => failures.succeeded(name),
        (error: unknown) => {
          failures.failed(name, performance.now());
          intake.log.error({ err: error, work: name }, 'intake failed');
        }
      )
      .finally(() => running.delete(name));
    running.set(name, done);
  };

  /** Fills gaps of an account one piece after the other, until one fails or none is left. */
  async function fill(accountId: number, held: Held): Promise<void> {
    while (!stopped && intake.duties.held(held.name) !== null) {
      const failing = new Set(
        (await allCollections(intake.db))
          .filter((one) => one.accountId === accountId && isFailing(one))
          .map(({ service }) => service)
      );
      const next = (await allGaps(intake.db)).find((gap) => gap.accountId === accountId && !failing.has(gap.service));
      if (!next || !(await fillPiece(intake, next, held))) return;
    }
  }

  return {
    /** Starts what is due at this moment; does not wait for it. */
    async tick(): Promise<void> {
      const now = intake.clock.now();
      const { db } = intake;
      const [accounts, collections, plans, gaps] = await Promise.all([
        scheduledAccounts(db),
        allCollections(db),
        allPlans(db),
        allGaps(db)
      ]);
      if (stopped) return;
      for (const account of accounts) {
        if (!(account.provider in intake.providers)) continue; // samples are sent to it, not pulled
        if (intake.duties.held(accountDuty(account.id)) === null) continue; // another process reads it
        if (isDiscoveryDue(account, now))
          begin(`discover ${account.id}`, account.id, (held) => discoverAccount(intake, account.id, held));
        for (const collection of collections.filter(({ accountId }) => accountId === account.id)) {
          const { plan = usualPlan } =
            plans.find((one) => one.accountId === account.id && one.service === collection.service) ?? {};
          if (plan.collect !== 'nothing' && isDue(collection, planEvery(plan), now))
            begin(`pull ${account.id} ${collection.service}`, account.id, (held) =>
              timed(
                'pulls',
                async () => {
                  if (!(await pullService(intake, account.id, collection.service, held))) count('pulls.failed');
                },
                {
                  attributes: { 'bussola.account.id': account.id, 'bussola.service': collection.service },
                  slow: () => ({
                    kind: 'pulls',
                    key: `${account.id} ${collection.service}`,
                    about: { accountId: account.id, service: collection.service }
                  })
                }
              )
            );
        }
        const failing = collections.filter((one) => one.accountId === account.id && isFailing(one));
        if (gaps.some((gap) => gap.accountId === account.id && !failing.some(({ service }) => service === gap.service)))
          begin(`fill ${account.id}`, account.id, (held) => fill(account.id, held));
      }
    },
    /** Lets what is running come to its end. */
    async stop(): Promise<void> {
      stopped = true;
      await Promise.all(running.values());
    }
  };
}

/** The first pause after work failed unexpectedly, and the longest, ms of real time. */
const [firstPause, longestPause] = [1_000, 300_000];

/**
 * Remembers which work failed unexpectedly, so that it is tried again ever more seldom instead of with every heartbeat.
 *
 * @example
 * const failures = new Failures();
 * failures.failed('pull 3 queues', 0);
 * failures.isPausing('pull 3 queues', 999); // true
 */
export class Failures {
  readonly #failed = new Map<string, { count: number; until: number }>();

  failed(name: string, now: number): void {
    const count = (this.#failed.get(name)?.count ?? 0) + 1;
    this.#failed.set(name, { count, until: now + Math.min(longestPause, firstPause * 2 ** (count - 1)) });
  }

  succeeded(name: string): void {
    this.#failed.delete(name);
  }

  isPausing(name: string, now: number): boolean {
    return now < (this.#failed.get(name)?.until ?? 0);
  }
}

/** Refused values do not prevent the others from being fetched. */
const isFailing = ({ lastError }: Collection): boolean => lastError !== null && lastError.code !== 'refused-values';

/** Due once the interval has passed, unless the provider asked to wait; at once when the clock was set back behind the last pull. */
function isDue({ lastPullAt, notBefore }: Collection, every: Duration, now: Instant): boolean {
  if (lastPullAt === null || now < lastPullAt) return true;
  return now - lastPullAt >= every && (notBefore === null || now >= notBefore);
}
