import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { startEmbedded, type EmbeddedDatabase } from '../../src/lib/server/db/embedded';
import { openFolder, type DataFolder } from '../../src/lib/server/db/folder';
import { knownVersion, migrate } from '../../src/lib/server/db/migrate';
import { openPool, type Connection, type Database } from '../../src/lib/server/db/pool';

/** A fresh temporary folder, removed when the tests of this file are done. */
export function withFolder(): { path: string } {
  const held = { path: '' };
  before(() => (held.path = mkdtempSync(join(tmpdir(), 'bussola-test-'))));
  after(() => rmSync(held.path, { recursive: true, force: true }));
  return held;
}

/** A real embedded database of its own for the tests of a `describe`. */
export function withDatabase({ migrated = true } = {}): { db: Database; connection: Connection; folder: DataFolder } {
  const held = {} as { db: Database; connection: Connection; folder: DataFolder };
  let embedded: EmbeddedDatabase;
  before(async function () {
    this.timeout(60_000);
    held.folder = openFolder(mkdtempSync(join(tmpdir(), 'bussola-test-')), knownVersion());
    embedded = await startEmbedded(held.folder);
    held.connection = embedded.connection;
    held.db = openPool(embedded.connection);
    if (migrated) await migrate(held.db);
  });
  after(async function () {
    this.timeout(20_000);
    await held.db.close();
    await embedded.close();
    held.folder.release();
    rmSync(held.folder.path, { recursive: true, force: true });
  });
  return held;
}
