import { copyFileSync, existsSync, mkdirSync, readFileSync, renameSync, rmSync, statSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { Refusal } from '$lib/core/problem/problem';
import { openEmbedded, type BackupSource } from '../backup/back-up';
import type { Config } from '../base/config';
import { connectionFault } from '../db/connection-faults';
import { startEmbedded } from '../db/embedded';
import { folderAt, openFolder, socketName, type DataFolder } from '../db/folder';
import { knownVersion } from '../db/migrate';
import { oneRow, openPool, type Connection, type Database } from '../db/pool';

/**
 * The data folder of settings, taken for this process.
 *
 * @throws Refusal `data-folder` where it is another user’s: what root writes there, Bussola could not read
 */
export function takeFolder(data: string): DataFolder {
  const path = resolve(data);
  const owner = existsSync(path) ? statSync(path).uid : process.getuid?.();
  if (owner !== process.getuid?.())
    throw new Refusal(
      'data-folder',
      `The data folder ${path} belongs to another user (${owner}).`,
      `Run this as that user: setpriv --reuid=${owner} --clear-groups npm run ….`
    );
  return openFolder(data, knownVersion());
}

/** Where a backup is read from, opened. */
export type OpenedSource = BackupSource & {
  /** Whether a Bussola uses it meanwhile. */
  readonly isUsed: boolean;
  close(): Promise<void>;
};

/**
 * Opens what settings name.
 *
 * @param mayRun whether a Bussola may use it meanwhile
 * @throws Refusal `data-folder` where there is nothing; `in-use`
 */
export async function openSource({ databaseUrl, data }: Config, mayRun = true): Promise<OpenedSource> {
  if (databaseUrl !== null) {
    const connection = { connectionString: databaseUrl };
    if (!mayRun) await refuseOthers(databaseUrl);
    return { connection, database: null, isUsed: mayRun, close: () => Promise.resolve() };
  }
  const at = folderAt(data);
  if (!existsSync(at.database))
    throw new Refusal(
      'data-folder',
      `There are no data in ${at.path}.`,
      'Name the data folder: --data FOLDER, or BUSSOLA_DATA.'
    );
  try {
    const folder = takeFolder(data);
    const embedded = await startEmbedded(folder);
    return {
      connection: embedded.connection,
      database: folder.database,
      isUsed: false,
      close: async () => {
        await embedded.close();
        folder.release();
      }
    };
  } catch (error) {
    const isUsed = error instanceof Refusal && error.code === 'data-folder' && existsSync(join(at.path, socketName));
    if (!mayRun || !isUsed) throw error;
    const connection = { host: at.path, user: 'postgres', database: 'postgres' };
    if (!(await answers(connection))) throw error; // the socket of one that was killed
    return { connection, database: at.database, isUsed: true, close: () => Promise.resolve() };
  }
}

async function answers(connection: Connection): Promise<boolean> {
  const db = openPool(connection, 1);
  try {
    await db.rows('select 1');
    return true;
  } catch (error) {
    if (connectionFault(error) !== null) return false;
    throw error;
  } finally {
    await db.close();
  }
}

/** Whoever else writes to a database would be left behind. */
async function refuseOthers(connectionString: string): Promise<void> {
  const db = openPool({ connectionString }, 1);
  try {
    const { others } = oneRow(
      await db.rows<{ others: number }>(
        `select count(*)::integer as others from pg_stat_activity
         where datname = current_database() and pid <> pg_backend_pid() and backend_type = 'client backend'`
      )
    );
    if (others > 0)
      throw new Refusal('in-use', `${others} other connections use the database.`, 'Stop Bussola, then move it.');
  } finally {
    await db.close();
  }
}

/** Where a backup is restored to. */
export interface Target {
  readonly db: Database;
  close(): Promise<void>;
  /** Takes what was made as the database of the folder, or leaves nothing of it. */
  settle(): void;
  drop(): void;
}

/** A new database beside where it will be: killed meanwhile, the folder has none, and what was begun is made anew. */
export async function newEmbedded(folder: DataFolder): Promise<Target> {
  if (existsSync(folder.database))
    throw new Refusal(
      'database-taken',
      `There are data in ${folder.path} already.`,
      'Name another folder: --data FOLDER, or BUSSOLA_DATA. Nothing in it was changed.'
    );
  const making = join(folder.path, 'restoring');
  rmSync(making, { recursive: true, force: true });
  const { db, close } = await openEmbedded(making);
  return {
    ...{ db, close },
    settle: () => {
      renameSync(join(making, 'database'), folder.database);
      rmSync(making, { recursive: true, force: true });
    },
    drop: () => rmSync(making, { recursive: true, force: true })
  };
}

/** A database of a server. */
export function server(connectionString: string): Target {
  const db = openPool({ connectionString }, 1, null);
  return { db, close: () => db.close(), settle: () => undefined, drop: () => undefined };
}

/** Puts the key of the secrets into a folder. @throws Refusal `secrets-key` where there is another one */
export function takeKey(folder: DataFolder, keyFile: string): void {
  const target = join(folder.path, 'key');
  if (resolve(keyFile) === target) return;
  if (existsSync(target) && readFileSync(target, 'utf8') !== readFileSync(keyFile, 'utf8'))
    throw new Refusal(
      'secrets-key',
      `There is another key in ${folder.path} already.`,
      'Move that away if nothing needs it, then restore again.'
    );
  mkdirSync(folder.path, { recursive: true, mode: 0o700 });
  copyFileSync(keyFile, target);
}
