import { constants, existsSync } from 'node:fs';
import { access, mkdir, readdir, rm } from 'node:fs/promises';
import { join, relative, resolve } from 'node:path';
import { Refusal } from '$lib/core/problem/problem';
import type { Instant } from '$lib/core/time';

/** The name of the file of a backup. @example backupName(instant(0)) // 'bussola-1970-01-01T00-00-00Z.tar.gz' */
export const backupName = (at: Instant): string =>
  `bussola-${new Date(at).toISOString().slice(0, 19).replaceAll(':', '-')}Z.tar.gz`;

/** Names come from the database, which may be one that was restored: none leads elsewhere. */
const isBackupName = (name: string): boolean => /^bussola-[\dTZ-]+\.tar\.gz$/.test(name);

/** The folder in which the files of backups are, and beside them, in folders of their own, what is being made. */
export class BackupFolder {
  readonly path: string;

  constructor(path: string) {
    this.path = resolve(path);
  }

  /** Where a backup lies, or will. */
  fileOf = (name: string): string => join(this.path, name);

  /** Whether the file of a backup is there. */
  has = (name: string | null): boolean => name !== null && isBackupName(name) && existsSync(this.fileOf(name));

  /** Whether it lies within another folder: a disk that is lost takes both. @example new BackupFolder('data/backups').isWithin('data') // true */
  isWithin(other: string): boolean {
    return !/^\.\.(\/|$)/.test(relative(resolve(other), this.path));
  }

  /** The folder of what a backup or a rehearsal makes until it is complete. */
  workOf = (id: number): string => join(this.path, `.work-${id}`);

  /** Makes it where it is not there. @throws Refusal `data-folder` where it cannot be written */
  async make(): Promise<void> {
    try {
      await mkdir(this.path, { recursive: true, mode: 0o700 });
      await access(this.path, constants.W_OK);
    } catch (error) {
      throw new Refusal(
        'data-folder',
        `The folder of backups, ${this.path}, cannot be written: ${(error as NodeJS.ErrnoException).code ?? String(error)}.`,
        'Give the user of Bussola the right to write there, or name another folder in BUSSOLA_BACKUPS.',
        { cause: error }
      );
    }
  }

  async remove(name: string): Promise<void> {
    if (isBackupName(name)) await rm(this.fileOf(name), { force: true });
  }

  removeWorkOf = (id: number): Promise<void> => rm(this.workOf(id), { recursive: true, force: true });

  /** Removes what processes that were killed were making. */
  async removeAllWork(): Promise<void> {
    if (!existsSync(this.path)) return;
    for (const name of await readdir(this.path)) {
      const id = /^\.work-(\d+)$/.exec(name)?.[1];
      if (id !== undefined) await this.removeWorkOf(Number(id));
    }
  }
}
