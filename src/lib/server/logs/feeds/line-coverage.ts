import { usualPlan } from '$lib/core/intake';
import { before, day, times, type Instant } from '$lib/core/time';
import type { Account, AccountError } from '../../inventory/accounts';
import type { Intake } from '../../intake/ledger/intake';
import { allPlans } from '../../intake/plan/plans';
import { arrivedSinceByService, feedsOf, type ArrivedCount } from './feeds';

/** How the lines of a service of an account arrive. */
export interface LineCoverage extends ArrivedCount {
  readonly service: string;
  /** What writes them at the provider. */
  readonly feeds: number;
  /** How far back they are here; null where nothing is read. */
  readonly historyTo: Instant | null;
  /** Where the history begins that is wanted. */
  readonly historyFrom: Instant;
  readonly lastError: AccountError | null;
}

/** What arrived in the last day, and how far feeds are read, service by service. */
export async function lineCoverage(
  { db, clock }: Pick<Intake, 'db' | 'clock'>,
  { id: accountId, historyFrom }: Pick<Account, 'id' | 'historyFrom'>
): Promise<LineCoverage[]> {
  const now = clock.now();
  const [plans, arrived, feeds] = await Promise.all([
    allPlans(db),
    arrivedSinceByService(db, accountId, before(now, day)),
    feedsOf(db, accountId)
  ]);
  const services = [...new Set([...arrived, ...feeds].map(({ service }) => service))];
  return services.map((service) => {
    const { keep } = plans.find((one) => one.accountId === accountId && one.service === service)?.plan ?? usualPlan;
    const own = feeds.filter((feed) => feed.service === service);
    const { lines = 0, bytes = 0, leftOut = 0, refused = 0 } = arrived.find((one) => one.service === service) ?? {};
    return {
      ...{ service, lines, bytes, leftOut, refused, feeds: own.length },
      historyTo: own.length === 0 ? null : (Math.max(...own.map(({ historyTo }) => historyTo)) as Instant),
      historyFrom: Math.max(historyFrom, before(now, times(keep.lineDays, day))) as Instant,
      lastError: own.find(({ lastError }) => lastError !== null)?.lastError ?? null
    };
  });
}
