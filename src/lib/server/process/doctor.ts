import { Refusal } from '$lib/core/problem/problem';
// npm run doctor: looks a data folder through and says what is wrong. Changes nothing but the lock it holds meanwhile.
import { parseArgs } from 'node:util';
import { startEmbedded } from '../db/embedded';
import { openFolder } from '../db/folder';
import { knownVersion, migrate } from '../db/migrate';
import { openPool } from '../db/pool';
import { examineAll, sizeWords } from '../doctor/examine-all';

const { values } = parseArgs({ options: { data: { type: 'string', default: 'bussola-data' } } });

try {
  const url = process.env['DATABASE_URL'];
  const folder = url === undefined ? openFolder(values.data, knownVersion()) : null;
  const embedded = folder === null ? null : await startEmbedded(folder);
  const db = openPool(embedded?.connection ?? { connectionString: url as string }, 1, null);
  await migrate(db);
  const examined = await examineAll(db);
  const { findings } = examined;
  await db.close();
  await embedded?.close();
  folder?.release();
  for (const words of sizeWords(examined)) process.stdout.write(`${words}\n`);
  if (embedded !== null) process.stdout.write('Commits are synced to the disk before they are confirmed.\n');
  for (const what of findings) process.stdout.write(`! ${what}\n`);
  process.stdout.write(findings.length === 0 ? 'Nothing is wrong.\n' : `${findings.length} findings.\n`);
  process.exitCode = findings.length === 0 ? 0 : 1;
} catch (error) {
  if (!(error instanceof Refusal)) throw error;
  process.stderr.write(`${error.message}\n${error.remedy}\n`);
  process.exitCode = 2;
}
