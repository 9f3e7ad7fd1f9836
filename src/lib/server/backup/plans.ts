// backup_plan
import { backupPlanForm, type BackupPlan } from '$lib/core/backup';
import { readStored, writeStored } from '$lib/core/forms/stored';
import type { Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';

/** The schedule of backups as it is stored. */
export interface StoredBackupPlan {
  readonly plan: BackupPlan;
  readonly version: number;
  readonly nextAt: Instant | null;
  readonly changedAt: Instant;
  readonly changedBy: string;
}

type Row = Omit<StoredBackupPlan, 'plan'> & { readonly definition: unknown };

/** @returns null while nothing has been scheduled */
export async function backupPlan(db: Queryable): Promise<StoredBackupPlan | null> {
  const [row] = await db.rows<Row>(
    `select definition, version, next_at as "nextAt", changed_at as "changedAt", changed_by as "changedBy" from backup_plan`
  );
  if (row === undefined) return null;
  const { definition, ...rest } = row;
  return { ...rest, plan: readStored(backupPlanForm, definition, '') };
}

/** @param seen the version that was changed; null where there was none @returns whether it was still that one */
export async function savePlan(
  db: Queryable,
  plan: BackupPlan,
  seen: number | null,
  { nextAt, changedAt, changedBy }: Pick<StoredBackupPlan, 'nextAt' | 'changedAt' | 'changedBy'>
): Promise<boolean> {
  const values = [writeStored(backupPlanForm, plan), nextAt, changedAt, changedBy];
  const rows =
    seen === null
      ? await db.rows(
          `insert into backup_plan (id, definition, next_at, changed_at, changed_by) values (1, $1, $2, $3, $4)
           on conflict (id) do nothing returning id`,
          values
        )
      : await db.rows(
          `update backup_plan
           set definition = $1, next_at = $2, changed_at = $3, changed_by = $4, version = version + 1
           where version = $5 returning id`,
          [...values, seen]
        );
  return rows.length > 0;
}

/** Moves on to the next time, where it was still due as it was. @returns whether it was: one process alone goes on */
export const moveOnPlan = async (
  db: Queryable,
  { version, nextAt }: Pick<StoredBackupPlan, 'version' | 'nextAt'>,
  next: Instant
): Promise<boolean> =>
  (
    await db.rows('update backup_plan set next_at = $3 where version = $1 and next_at = $2 returning id', [
      version,
      nextAt,
      next
    ])
  ).length > 0;
