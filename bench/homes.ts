import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { startEmbedded } from '../src/lib/server/db/embedded';
import { openFolder } from '../src/lib/server/db/folder';
import { knownVersion, migrate } from '../src/lib/server/db/migrate';
import { openPool, type Connection, type Database } from '../src/lib/server/db/pool';

/** A database to measure on: its home in words, how to reach it, and what ends it. */
export interface Home {
  readonly name: 'PGlite' | 'PostgreSQL';
  readonly connection: Connection;
  readonly db: Database;
  close(): Promise<void>;
}

/** Does work, whose statements may take as long as they need, on a fresh embedded database, then on a fresh PostgreSQL database where `npm run bench` has started a server. */
export async function onEachHome<T>(work: (home: Home) => Promise<T>): Promise<T[]> {
  const results: T[] = [];
  for (const open of [embedded, postgres]) {
    const home = await open();
    if (home === null) continue;
    await migrate(home.db);
    results.push(await work(home));
    await home.close();
  }
  return results;
}

async function embedded(): Promise<Home> {
  const folder = openFolder(mkdtempSync(join(tmpdir(), 'bussola-bench-')), knownVersion());
  const running = await startEmbedded(folder);
  const db = openPool(running.connection, 2, null);
  return {
    name: 'PGlite',
    connection: running.connection,
    db,
    close: async () => {
      await db.close();
      await running.close();
      folder.release();
      rmSync(folder.path, { recursive: true });
    }
  };
}

async function postgres(): Promise<Home | null> {
  const server = process.env['BUSSOLA_BENCH_POSTGRES'];
  if (server === undefined) return null;
  const name = `bench_${Math.random().toString(36).slice(2, 10)}`;
  const root = openPool({ connectionString: server }, 1);
  await root.rows(`create database ${name}`);
  await root.close();
  const url = new URL(server);
  url.pathname = `/${name}`;
  const connection = { connectionString: url.href };
  const db = openPool(connection, 2, null);
  return { name: 'PostgreSQL', connection, db, close: () => db.close() };
}
