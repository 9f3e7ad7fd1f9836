import { once } from 'node:events';
import { cp, rename, rm } from 'node:fs/promises';
import { existsSync } from 'node:fs';
import { emptyDatabase, startThread } from '../built';

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
  await rename(making, database);
}
