// backups
import { z } from 'zod';
import type { Problem } from '$lib/core/problem/problem';
import type { Instant } from '$lib/core/time';
import { isTaken, oneRow, type Queryable } from '../db/pool';
import type { Progress } from './file/format';

/** What a backup or a rehearsal gave. */
export const resultSchema = z.object({
  rows: z.int(),
  tables: z.int(),
  /** Of a backup: its size, and how long statements waited for it, ms. */
  bytes: z.int().optional(),
  pausedMs: z.int().optional(),
  /** Of a rehearsal: what was found in what was restored, and whether its secrets open. */
  findings: z.array(z.string()).optional(),
  holds: z.array(z.string()).optional()
});
export type BackupResult = z.infer<typeof resultSchema>;

/** A backup, or a rehearsal of restoring one. */
export interface BackupRecord {
  readonly id: number;
  readonly kind: 'backup' | 'rehearsal';
  readonly backupId: number | null;
  readonly state: 'running' | 'done' | 'failed' | 'stopped';
  readonly beganAt: Instant;
  readonly beganBy: string;
  readonly endedAt: Instant | null;
  readonly isScheduled: boolean;
  readonly file: string | null;
  readonly progress: Progress | null;
  readonly result: BackupResult | null;
  readonly problem: Pick<Problem, 'code' | 'message' | 'remedy'> | null;
}

const columns = `id, kind, backup_id as "backupId", state, began_at as "beganAt", began_by as "beganBy", ended_at as "endedAt",
  is_scheduled as "isScheduled", file, progress, result, problem`;

/** The newest first. */
export const listBackups = (db: Queryable, most = 200): Promise<BackupRecord[]> =>
  db.rows<BackupRecord>(`select ${columns} from backups order by began_at desc, id desc limit $1`, [most]);

/** @returns null when there is none */
export async function backupById(db: Queryable, id: number): Promise<BackupRecord | null> {
  const [row] = await db.rows<BackupRecord>(`select ${columns} from backups where id = $1`, [id]);
  return row ?? null;
}

/** The newest that ended, of a kind. */
export async function lastEnded(db: Queryable, kind: BackupRecord['kind']): Promise<BackupRecord | null> {
  const [row] = await db.rows<BackupRecord>(
    `select ${columns} from backups where kind = $1 and state in ('done', 'failed') order by began_at desc, id desc limit 1`,
    [kind]
  );
  return row ?? null;
}

/** When the last backup began that is whole and there; null for none. */
export async function lastGood(db: Queryable, kind: BackupRecord['kind']): Promise<Instant | null> {
  const { at } = oneRow(
    await db.rows<{ at: Instant | null }>(
      `select max(began_at) as at from backups where kind = $1 and state = 'done' and (kind = 'rehearsal' or file is not null)`,
      [kind]
    )
  );
  return at;
}

type NewRecord = Pick<BackupRecord, 'kind' | 'backupId' | 'beganAt' | 'beganBy' | 'isScheduled' | 'file'>;

/** @returns its id; null while another one runs */
export async function beginRecord(db: Queryable, begun: NewRecord): Promise<number | null> {
  const { kind, backupId, beganAt, beganBy, isScheduled, file } = begun;
  try {
    const { id } = oneRow(
      await db.rows<{ id: number }>(
        `insert into backups (kind, backup_id, state, began_at, began_by, is_scheduled, file)
         values ($1, $2, 'running', $3, $4, $5, $6) returning id`,
        [kind, backupId, beganAt, beganBy, isScheduled, file]
      )
    );
    return id;
  } catch (error) {
    if (isTaken(error)) return null;
    throw error;
  }
}

/** Notes how far it is, and that somebody runs it. @returns whether it is still to go on */
export const noteProgress = async (db: Queryable, id: number, progress: Progress | null): Promise<boolean> =>
  (
    await db.rows(
      `update backups set progress = coalesce($2, progress), seen_at = now() where id = $1 and state = 'running' returning id`,
      [id, progress]
    )
  ).length > 0;

type Ending = Pick<BackupRecord, 'endedAt' | 'result' | 'problem'> & {
  readonly state: Exclude<BackupRecord['state'], 'running'>;
};

/** @returns whether it ran until now */
export const endRecord = async (
  db: Queryable,
  id: number,
  { state, endedAt, result, problem }: Ending
): Promise<boolean> =>
  (
    await db.rows(
      `update backups
       set state = $2, ended_at = $3, result = $4, problem = $5, progress = null,
         file = case when $2 = 'done' then file end
       where id = $1 and state = 'running'
       returning id`,
      [id, state, endedAt, result, problem]
    )
  ).length > 0;

/** Those that nobody has been seen to run for so many seconds end as failed. @returns which they were, with the files that they were to be */
export const endForsaken = (
  db: Queryable,
  seconds: number,
  now: Instant
): Promise<Pick<BackupRecord, 'id' | 'file'>[]> =>
  db.rows<Pick<BackupRecord, 'id' | 'file'>>(
    `with forsaken as (
       select id, file from backups where state = 'running' and seen_at < now() - make_interval(secs => $1) for update)
     update backups
     set state = 'failed', ended_at = $2, progress = null, file = null, problem = $3
     from forsaken
     where backups.id = forsaken.id
     returning forsaken.id, forsaken.file`,
    [seconds, now, { code: 'cancelled', message: 'Bussola ended while it ran.', remedy: 'Begin it again.' }]
  );

/** Scheduled backups that are whole, besides the newest so many. */
export const superfluous = (db: Queryable, stay: number): Promise<Pick<BackupRecord, 'id' | 'file'>[]> =>
  db.rows<Pick<BackupRecord, 'id' | 'file'>>(
    `select id, file from backups
     where kind = 'backup' and is_scheduled and state = 'done' and file is not null
     order by began_at desc, id desc offset $1`,
    [stay]
  );

/** The file of it is gone. */
export const forgetFile = async (db: Queryable, id: number): Promise<void> =>
  void (await db.rows('update backups set file = null where id = $1', [id]));

/** @returns whether it was there and did not run */
export const deleteRecord = async (db: Queryable, id: number): Promise<boolean> =>
  (await db.rows(`delete from backups where id = $1 and state <> 'running' returning id`, [id])).length > 0;

/** Removes what is long over and has no file. */
export const forgetRecords = async (db: Queryable, before: Instant): Promise<void> =>
  void (await db.rows(
    `delete from backups where began_at < $1 and state <> 'running' and (file is null or kind = 'rehearsal')`,
    [before]
  ));
