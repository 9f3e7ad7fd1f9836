import { usualPlan } from '$lib/core/intake';
import { after, day, times, type Instant } from '$lib/core/time';
import { historyDue } from '$server/incidents/history-retention';
import { unreadableStored } from '$server/doctor/unreadable';
import { allAccounts } from '$server/inventory/accounts';
import { allCollections } from '$server/intake/ledger/collections';
import { allPlans } from '$server/intake/plan/plans';
import { linesDue, storedLines } from '$server/logs/retention';
import { bussola } from '$server/process/running';
import { journalSize } from '$server/store/journal';
import { storedSizes, removalsDue, type Removal } from '$server/store/retention';
import type { PageServerLoad } from './$types';

/** How far ahead removals are shown, in days. */
const ahead = [1, 7, 30] as const;

export const load: PageServerLoad = async ({ depends }) => {
  depends('bussola:accounts');
  const { db, clock, disk, logs } = bussola();
  const now = clock.now();
  const [accounts, collections, plans, kept, journal, unreadable, history, ...removals] = await Promise.all([
    allAccounts(db),
    allCollections(db),
    allPlans(db),
    storedSizes(db),
    journalSize(db),
    unreadableStored(db),
    historyDue(db, after(now, times(30, day))),
    ...ahead.map((days) => removalsDue(db, after(now, times(days, day))))
  ]);
  const [lines, damagedLines, ...lineRemovals] = await Promise.all([
    storedLines(db),
    logs.logs.damaged(),
    ...ahead.map((days) => linesDue(db, after(now, times(days, day))))
  ]);
  const nameOf = (accountId: number) => accounts.find(({ id }) => id === accountId)?.name ?? '';
  const keepOf = (accountId: number, service: string) =>
    (plans.find((one) => one.accountId === accountId && one.service === service)?.plan ?? usualPlan).keep;
  const sumOf = (gone: readonly Removal[] | undefined, accountId: number, service: string) =>
    (gone ?? [])
      .filter((one) => one.accountId === accountId && one.service === service)
      .reduce((sum, { points, bytes }) => ({ points: sum.points + points, bytes: sum.bytes + bytes }), {
        points: 0,
        bytes: 0
      });
  return {
    kept,
    journal,
    unreadable: unreadable.map(({ message, remedy }) => ({ message, remedy })),
    history,
    disk: disk.state(),
    ahead,
    going: removals.map((gone) => gone.reduce((sum, { bytes }) => sum + bytes, 0)),
    services: collections.map(({ accountId, service }) => ({
      accountId,
      service,
      account: nameOf(accountId),
      keep: keepOf(accountId, service),
      going: removals.map((gone) => sumOf(gone, accountId, service))
    })),
    damagedLines,
    lines: lines.map((one) => ({
      ...one,
      account: nameOf(one.accountId),
      lineDays: keepOf(one.accountId, one.service).lineDays,
      going: lineRemovals.map(
        (gone) =>
          gone.find(({ accountId, service }) => accountId === one.accountId && service === one.service)?.bytes ?? 0
      )
    })),
    oldest: kept.reduce<Instant | null>(
      (oldest, one) => (oldest === null || one.oldest < oldest ? one.oldest : oldest),
      null
    )
  };
};
