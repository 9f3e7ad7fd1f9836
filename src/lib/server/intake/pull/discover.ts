import { confirmDuty, DutyLost, type Held } from '../../duties/duties';
import { mended } from '$lib/core/forms/storable';
import { minute, times, type Instant } from '$lib/core/time';
import { accountById, noteClock, noteDiscovery, type ScheduledAccount } from '../../inventory/accounts';
import { beginCollections } from '../ledger/collections';
import { accessOf, errorOf, providerOf, type Intake } from '../ledger/intake';
import { ProviderError } from '../../providers/port/provider';
import { saveMetrics } from '../../inventory/metrics';
import { saveDiscovered } from '../../inventory/resources';

/** How often resources and metrics are looked up again, and how soon after a failure. */
const discoverEvery = times(10, minute);
const tryAgainAfter = times(1, minute);

/** Due at once when never tried, then every ten minutes; also when the clock was set back. */
export function isDiscoveryDue({ discoveredAt, discoveryTriedAt }: ScheduledAccount, now: Instant): boolean {
  if (discoveryTriedAt === null || now < discoveryTriedAt) return true;
  const failed = discoveredAt !== discoveryTriedAt;
  return now - discoveryTriedAt >= (failed ? tryAgainAfter : discoverEvery);
}

/**
 * Looks up what an account has: resources and metrics. A failure is noted and reported, not thrown.
 *
 * @returns whether it succeeded
 */
export async function discoverAccount(intake: Intake, accountId: number, held: Held | null = null): Promise<boolean> {
  const { db, clock, providers, changes, log } = intake;
  const account = await accountById(db, accountId);
  if (account === null) return false;
  const now = clock.now();
  const provider = providerOf(providers, account);
  try {
    const access = await accessOf(intake, account);
    // One name that cannot be stored must not prevent the others from being found.
    const found = mended(await provider.discover(access));
    const metrics = mended(await provider.describeMetrics(access));
    await db.transaction(async (within) => {
      await confirmDuty(within, held);
      await saveMetrics(within, account.provider, metrics);
      await saveDiscovered(within, accountId, found, now);
      await beginCollections(within, accountId, [...new Set(found.map(({ service }) => service))]);
      await noteDiscovery(within, accountId, now, null);
      if (access.guard.meter.clockAheadMs !== null) await noteClock(within, accountId, access.guard.meter.clockAheadMs);
    });
  } catch (failure) {
    if (failure instanceof DutyLost) throw failure;
    if (failure instanceof ProviderError && failure.code === 'paused') return false; // nothing was asked: it stays due
    if (!(failure instanceof ProviderError)) log.error({ err: failure, accountId }, 'discovery failed');
    await noteDiscovery(db, accountId, now, errorOf(failure, now));
  }
  changes.tell('account', { accountId });
  return true;
}
