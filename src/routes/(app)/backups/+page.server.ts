import { usualPlan } from '$lib/core/backup';
import { backupPlan } from '$server/backup/plans';
import { listBackups } from '$server/backup/records';
import { readerDates } from '$server/http/reader-dates';
import { bussola } from '$server/process/running';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ depends, locals }) => {
  depends('bussola:backups');
  const server = bussola();
  const { db, backups, config } = server;
  const stored = await backupPlan(db);
  return {
    backups: (await listBackups(db)).map((one) => ({ ...one, isThere: backups.folder.has(one.file) })),
    stored,
    given: usualPlan(readerDates(locals.person).zone),
    folder: backups.folder.path,
    /** Where the key of the secrets is. */
    key: config.key === null ? 'file' : 'setting',
    /** A disk that is lost takes both then. */
    isBesideData: config.databaseUrl === null && backups.folder.isWithin(config.data)
  };
};
