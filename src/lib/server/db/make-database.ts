import { once } from 'node:events';
import { cp, rename, rm } from 'node:fs/promises';
import { existsSync, readdirSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { syncToDisk } from '../base/disk';
import { emptyDatabase, startThread } from '../base/built';

/**
 * Makes the folder of an embedded database when it is not there: a copy of the empty one that came with the build, else made by PGlite in a thread
 * that ends with it, since the half gigabyte this takes would never be given back. Killed in between, it begins anew.
 *
 * @param database the folder, such as `…/bussola-data/database`
 */
export async function makeDatabase(database: string): Promise<void> {
  if (existsSync(database)) return;
  const making = `${database}.making`;
  await rm(making, { recursive: true, force: true });
  const empty = emptyDatabase();
  if (existsSync(empty)) await cp(empty, making, { recursive: true });
  else await once(startThread('db/make-database.worker.ts', making), 'exit'); // rejects with the thread's error
  syncAll(making);
  await rename(making, database);
  syncToDisk(dirname(database));
}

/** Waits until everything in a folder is on the disk: from then on PostgreSQL syncs what it changes. */
function syncAll(folder: string): void {
  for (const entry of readdirSync(folder, { withFileTypes: true, recursive: true }))
    syncToDisk(join(entry.parentPath, entry.name));
  syncToDisk(folder);
}
