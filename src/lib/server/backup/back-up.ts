import { rmSync } from 'node:fs';
import { mkdir, rm } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { Refusal } from '$lib/core/problem/problem';
import { freeOn, megabytes } from '../base/disk';
import { folderAt } from '../db/folder';
import { startEmbedded } from '../db/embedded';
import { openPool, type Connection, type Database, type Queryable } from '../db/pool';
import { bytesBelow, copyEmbedded } from './copy-embedded';
import type { About, OnProgress } from './file/format';
import { writeBackup, type WrittenBackup } from './file/write-backup';

/** What a backup is made of. */
export interface BackupSource {
  readonly connection: Connection;
  /** The folder of the embedded database; null for a server. */
  readonly database: string | null;
}

export interface MadeBackup extends WrittenBackup {
  /** How long statements waited for it, ms. */
  readonly pausedMs: number;
}

/** A copy is made where this much more is free than it takes. */
const roomBesides = 256_000_000;

/**
 * Backs up a database that is in use. On a server, all of it is read in one transaction, beside whoever else is there. The embedded database has one session for all: its files are copied, with a pause
 * for what changes meanwhile, and the copy is read.
 *
 * @param work a folder for the copy and what is not complete yet, on the disk of the file; whatever is in it goes
 * @throws Refusal `disk-low`; what the database or the disk throws. No file is left behind then.
 * @example await backUp({ connection, database: 'bussola-data/database' }, 'today.tar.gz', 'backups/.work', { bussola: '0.1.0', madeAt }, () => {})
 */
export async function backUp(
  { connection, database }: BackupSource,
  file: string,
  work: string,
  about: Pick<About, 'bussola' | 'madeAt'>,
  onProgress: OnProgress
): Promise<MadeBackup> {
  await mkdir(dirname(file), { recursive: true, mode: 0o700 });
  const db = openPool(connection, 1, null);
  try {
    if (database === null)
      return { ...(await written(db, file, work, { ...about, database: 'server' }, onProgress)), pausedMs: 0 };
    onProgress({ doing: 'Copies the database', share: null });
    refuseFull(dirname(file), await bytesBelow(database));
    await rm(work, { recursive: true, force: true });
    const pausedMs = await copyEmbedded(db, database, join(work, 'database'));
    const copy = await openEmbedded(work);
    try {
      return { ...(await written(copy.db, file, work, { ...about, database: 'embedded' }, onProgress)), pausedMs };
    } finally {
      await copy.close();
    }
  } finally {
    await db.close();
    await rm(work, { recursive: true, force: true });
  }
}

/** Opens the embedded database of a folder that is nobody else's, made where there is none. */
export async function openEmbedded(
  folder: string
): Promise<{ readonly db: Database; readonly connection: Connection; readonly close: () => Promise<void> }> {
  const at = folderAt(folder);
  await mkdir(at.path, { recursive: true, mode: 0o700 });
  const embedded = await startEmbedded(at);
  const db = openPool(embedded.connection, 1, null);
  return {
    db,
    connection: embedded.connection,
    close: async () => {
      await db.close();
      await embedded.close();
      if (at.socket !== at.path) rmSync(at.socket, { recursive: true, force: true });
    }
  };
}

const written = (
  db: Database,
  file: string,
  work: string,
  about: Pick<About, 'bussola' | 'madeAt' | 'database'>,
  onProgress: OnProgress
): Promise<WrittenBackup> =>
  db.transaction(async (within: Queryable) => {
    await within.rows('set transaction isolation level repeatable read, read only');
    return writeBackup(within, file, work, about, onProgress);
  });

function refuseFull(folder: string, needed: number): void {
  const free = freeOn(folder);
  if (free >= needed + roomBesides) return;
  throw new Refusal(
    'disk-low',
    `A backup needs a copy of the database, ${megabytes(needed)}, and the disk of ${folder} has ${megabytes(free)} free.`,
    'Make room there, or name a folder on another disk in BUSSOLA_BACKUPS.'
  );
}
