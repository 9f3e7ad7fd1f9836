import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { startEmbedded, type EmbeddedDatabase } from '../../src/lib/server/db/embedded';
import { openFolder, type DataFolder } from '../../src/lib/server/db/folder';
import { knownVersion } from '../../src/lib/server/db/migrate';
import { openPool, type Connection, type Database } from '../../src/lib/server/db/pool';
import { layDatabase, templateOn } from './up-to-date';

/** A fresh temporary folder, removed when the tests of this file are done. */
export function withFolder(): { path: string } {
  const fixture = { path: '' };
  before(() => (fixture.path = mkdtempSync(join(tmpdir(), 'bussola-test-'))));
  after(() => rmSync(fixture.path, { recursive: true, force: true }));
  return fixture;
}

/** Where a PostgreSQL server for tests listens; without one, tests run on the embedded database. */
const postgres = process.env['BUSSOLA_TEST_POSTGRES'];
export const hasPostgres = postgres !== undefined;

/** A database of its own on the test server: up to date, or empty. @returns its address */
export async function freshPostgres({ migrated = true } = {}): Promise<string | null> {
  if (postgres === undefined) return null;
  const name = `test_${process.pid}_${Math.random().toString(36).slice(2, 10)}`;
  const template = migrated ? ` template ${await templateOn(postgres)}` : '';
  const server = openPool({ connectionString: postgres }, 1);
  await server.rows(`create database ${name}${template}`);
  await server.close();
  const url = new URL(postgres);
  url.pathname = `/${name}`;
  return url.href;
}

/** A real database of its own for the tests of a `describe`: embedded, or on PostgreSQL where `npm test` says so. */
export function withDatabase({ migrated = true } = {}): { db: Database; connection: Connection; folder: DataFolder } {
  const fixture = {} as { db: Database; connection: Connection; folder: DataFolder };
  let embedded: EmbeddedDatabase | null = null;
  before(async function () {
    this.timeout(180_000);
    fixture.folder = openFolder(mkdtempSync(join(tmpdir(), 'bussola-test-')), knownVersion());
    const url = await freshPostgres({ migrated });
    if (url === null) {
      if (migrated) await layDatabase(fixture.folder.path);
      embedded = await startEmbedded(fixture.folder);
    }
    fixture.connection = embedded?.connection ?? { connectionString: url as string };
    fixture.db = openPool(fixture.connection);
  });
  after(async function () {
    this.timeout(60_000);
    await fixture.db.close();
    await embedded?.close();
    fixture.folder.release();
    rmSync(fixture.folder.path, { recursive: true, force: true });
  });
  return fixture;
}
