import { rm } from 'node:fs/promises';
import { Refusal } from '$lib/core/problem/problem';
import { examineAll, sizeWords } from '../doctor/examine-all';
import { openSecrets } from '../doctor/open-secrets';
import { openEmbedded } from './back-up';
import type { OnProgress } from './file/format';
import { restoreBackup } from './file/restore-backup';

/** What a rehearsal found. */
export interface Rehearsed {
  readonly rows: number;
  readonly tables: number;
  /** What is in it, in words. */
  readonly holds: readonly string[];
  /** What is wrong with it; none where nothing is. */
  readonly findings: readonly string[];
}

/** Where the key of the secrets is. */
export interface KeyPlace {
  /** From the settings; null for the file `key` of the data folder. */
  readonly key: string | null;
  readonly data: string;
}

/**
 * Restores a backup into a folder of its own, compares every row, looks all of it through, opens its secrets, and removes the folder. Nothing of the running Bussola is touched, and nobody is notified of anything.
 *
 * @param work the folder; whatever is in it goes
 * @throws Refusal where it cannot be restored
 * @example (await rehearse('today.tar.gz', 'backups/.work', { key: null, data: 'bussola-data' }, () => {})).findings // []
 */
export async function rehearse(
  file: string,
  work: string,
  { key, data }: KeyPlace,
  onProgress: OnProgress
): Promise<Rehearsed> {
  await rm(work, { recursive: true, force: true });
  try {
    const { db, close } = await openEmbedded(work);
    try {
      const { rows, tables } = await restoreBackup(db, file, onProgress);
      onProgress({ doing: 'Looks all of it through', share: null });
      const examined = await examineAll(db);
      const locked = await openSecrets(db, data, key).then(
        () => null,
        (error: unknown) => {
          if (error instanceof Refusal) return error;
          throw error;
        }
      );
      const findings = [...examined.findings, ...(locked === null ? [] : [locked.message])];
      return { rows, tables, holds: sizeWords(examined), findings };
    } finally {
      await close();
    }
  } finally {
    await rm(work, { recursive: true, force: true });
  }
}
