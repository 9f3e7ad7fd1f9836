// npm run backup, restore, move [-- FLAGS]: docs/guides/back-up-and-restore.md says what they do.
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { root, run } from './prepare.mjs';

const built = join(root, 'build', 'workers', 'data.js');
if (!existsSync(built)) {
  console.error('Bussola is not built here. Run: npm ci && npm run build');
  process.exit(1);
}
process.exit(await run(process.execPath, [built, ...process.argv.slice(2)]));
