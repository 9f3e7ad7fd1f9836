import { createHash } from 'node:crypto';
import { cpSync, existsSync, mkdirSync, mkdtempSync, renameSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { startEmbedded } from '../../src/lib/server/db/embedded';
import { folderAt } from '../../src/lib/server/db/folder';
import { migrate, migrations } from '../../src/lib/server/db/migrate';
import { openPool } from '../../src/lib/server/db/pool';

// Bringing an empty database up to date takes longer than most tests: it is done once, and each test begins with a copy.

/** Says which migrations a copy was made by, so that none outlives a change of them. */
const digest = createHash('sha256').update(JSON.stringify(migrations())).digest('hex').slice(0, 16);
/** Gone with `node_modules`, so never of another version than the embedded database's package. */
const kept = join('node_modules', '.cache', 'bussola', `up-to-date-${digest}`);

let making: Promise<void> | null = null;

/**
 * Lays a copy of an embedded database that is empty and up to date where a data folder has its own.
 *
 * @param data the data folder, in which there is no database yet
 * @example await layDatabase('/tmp/bussola-test-x'); openFolder('/tmp/bussola-test-x', knownVersion())
 */
export async function layDatabase(data: string): Promise<void> {
  await (making ??= make());
  cpSync(kept, folderAt(data).database, { recursive: true });
}

async function make(): Promise<void> {
  if (existsSync(kept)) return;
  const data = mkdtempSync(join(tmpdir(), 'bussola-up-to-date-'));
  const folder = folderAt(data);
  const embedded = await startEmbedded(folder);
  const db = openPool(embedded.connection, 1, null);
  await migrate(db);
  await db.close();
  await embedded.close();
  mkdirSync(dirname(kept), { recursive: true });
  // Others may make one at the same time: whoever is first leaves theirs.
  const mine = `${kept}.${process.pid}`;
  cpSync(folder.database, mine, { recursive: true });
  rmSync(data, { recursive: true, force: true });
  try {
    renameSync(mine, kept);
  } catch (error) {
    rmSync(mine, { recursive: true, force: true });
    if (!existsSync(kept)) throw error;
  }
}

let template: Promise<string> | null = null;

/**
 * The name of a database on a PostgreSQL server that is empty and up to date, to make others from: `create database … template …`.
 *
 * @param server the address of the server; whoever asks has it alone
 */
export function templateOn(server: string): Promise<string> {
  return (template ??= makeTemplate(server));
}

async function makeTemplate(server: string): Promise<string> {
  const name = `up_to_date_${digest}`;
  const all = openPool({ connectionString: server }, 1);
  const isThere = await all.rows('select 1 from pg_database where datname = $1', [name]);
  if (isThere.length === 0) {
    await all.rows(`create database ${name}_made`);
    const url = new URL(server);
    url.pathname = `/${name}_made`;
    const db = openPool({ connectionString: url.href }, 1, null);
    await migrate(db);
    await db.close();
    await all.rows(`alter database ${name}_made rename to ${name}`);
  }
  await all.close();
  return name;
}
