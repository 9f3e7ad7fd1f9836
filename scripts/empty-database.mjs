// An empty database as PGlite makes it, copied for each new data folder: making one takes seconds and half a gigabyte, copying neither.
import { chmodSync, cpSync, existsSync, mkdirSync, readdirSync, renameSync, rmSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { PGlite } from '@electric-sql/pglite';

const root = dirname(dirname(fileURLToPath(import.meta.url)));
/** Gone with `node_modules`, so never of another version than the package. */
const kept = join(root, 'node_modules', '.cache', 'bussola', 'empty-database');

if (!existsSync(kept)) {
  const making = `${kept}.${process.pid}`;
  mkdirSync(dirname(kept), { recursive: true });
  await (await PGlite.create(making)).close();
  rmSync(join(making, 'postmaster.pid'), { force: true });
  if (!existsSync(kept)) renameSync(making, kept);
}
const built = join(root, 'build', 'empty-database');
if (existsSync(dirname(built)) && !existsSync(built)) {
  cpSync(kept, built, { recursive: true });
  // Whoever runs Bussola need not be who built it: nothing in it is anybody's secret.
  for (const entry of readdirSync(built, { withFileTypes: true, recursive: true }))
    chmodSync(join(entry.parentPath, entry.name), entry.isDirectory() ? 0o755 : 0o644);
}
