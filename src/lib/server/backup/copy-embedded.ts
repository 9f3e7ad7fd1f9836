import { copyFile, mkdir, readdir, rm, stat } from 'node:fs/promises';
import { constants } from 'node:fs';
import { join, relative } from 'node:path';
import type { Database } from '../db/pool';

/** A file as it was when it was copied. */
interface Copied {
  readonly size: bigint;
  readonly changedNs: bigint;
  readonly copiedNs: bigint;
}

/** A file system may write down times no finer than this, ns: what was changed within it may have changed again. */
const coarsestNs = 1_000_000_000n;
/** What belongs to a running database alone. */
const ofTheRunning = new Set(['postmaster.pid', 'postmaster.opts']);

/**
 * Copies the folder of an embedded database that is in use. It takes one statement at a time, and a transaction keeps all others waiting: first everything is copied while statements go on, then,
 * within a transaction, what has changed meanwhile. What results is what a process leaves that is killed at that moment, and opens as that does.
 *
 * @param from the folder of the database, such as `…/bussola-data/database`
 * @returns how long statements waited, ms
 * @example await copyEmbedded(db, 'bussola-data/database', 'backups/.work/database') // 38
 */
export async function copyEmbedded(db: Database, from: string, to: string): Promise<number> {
  const copied = new Map<string, Copied>();
  await db.rows('checkpoint');
  await copyChanged(from, to, copied);
  await db.rows('checkpoint'); // so that little is to be read from the log, and little changes within the transaction
  return db.transaction(async () => {
    const began = performance.now();
    await copyChanged(from, to, copied);
    return Math.round(performance.now() - began);
  });
}

async function copyChanged(from: string, to: string, copied: Map<string, Copied>): Promise<void> {
  const { files, folders } = await below(from);
  for (const folder of ['', ...folders]) await mkdir(join(to, folder), { recursive: true, mode: 0o700 });
  const there = new Set(files);
  for (const name of files) {
    const seen = await stat(join(from, name), { bigint: true }).catch(noneThere);
    if (seen === null) continue;
    const before = copied.get(name);
    const isSame =
      before?.size === seen.size && before.changedNs === seen.mtimeNs && before.copiedNs - seen.mtimeNs > coarsestNs;
    if (isSame) continue;
    const target = join(to, name);
    if ((await copyFile(join(from, name), target, constants.COPYFILE_FICLONE).catch(noneThere)) === null) continue;
    // When it was copied, by the clock that wrote down when it was changed.
    const { mtimeNs: copiedNs } = await stat(target, { bigint: true });
    copied.set(name, { size: seen.size, changedNs: seen.mtimeNs, copiedNs });
  }
  for (const name of copied.keys())
    if (!there.has(name)) {
      await rm(join(to, name), { force: true });
      copied.delete(name);
    }
}

/** Bytes of all files below a folder. */
export async function bytesBelow(folder: string): Promise<number> {
  let bytes = 0;
  for (const name of (await below(folder)).files) bytes += (await stat(join(folder, name)).catch(noneThere))?.size ?? 0;
  return bytes;
}

/** Files and folders below one, by their path from there. Those that vanish meanwhile are left out. */
async function below(folder: string): Promise<{ readonly files: string[]; readonly folders: string[] }> {
  const entries = await readdir(folder, { recursive: true, withFileTypes: true });
  const named = entries
    .filter(({ name }) => !ofTheRunning.has(name))
    .map((entry) => ({ name: relative(folder, join(entry.parentPath, entry.name)), isFolder: entry.isDirectory() }));
  return {
    files: named.filter(({ isFolder }) => !isFolder).map(({ name }) => name),
    folders: named.filter(({ isFolder }) => isFolder).map(({ name }) => name)
  };
}

/** A file that vanished is none. */
function noneThere(error: NodeJS.ErrnoException): null {
  if (error.code === 'ENOENT') return null;
  throw error;
}
