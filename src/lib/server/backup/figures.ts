import { lastDue } from '$lib/core/backup';
import type { Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';
import { backupPlan, type StoredBackupPlan } from './plans';
import { lastEnded, lastGood } from './records';

/** How the schedule stands: s that a backup is overdue, and whether the newest rehearsal failed; null where nothing says so. */
export async function backupFigures(
  db: Queryable,
  now: Instant
): Promise<{ readonly overdue: number | null; readonly rehearsalFailed: number | null }> {
  const stored = await backupPlan(db);
  const rehearsal = await lastEnded(db, 'rehearsal');
  return {
    overdue: stored?.plan.enabled === true ? await overdueBy(db, stored, now) : null,
    rehearsalFailed: rehearsal === null ? null : rehearsal.state === 'failed' ? 1 : 0
  };
}

/** s since a backup was due that has not been made; 0 where the last was. */
async function overdueBy(db: Queryable, { plan, changedAt }: StoredBackupPlan, now: Instant): Promise<number> {
  const due = lastDue(plan, now);
  const good = await lastGood(db, 'backup');
  return due <= changedAt || (good !== null && good >= due) ? 0 : (now - due) / 1000;
}
