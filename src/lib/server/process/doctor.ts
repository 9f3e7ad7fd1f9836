import { Refusal } from '$lib/core/problem/problem';
// npm run doctor: looks a data folder through and says what is wrong. Changes nothing but the lock it holds meanwhile.
import { parseArgs } from 'node:util';
import { startEmbedded } from '../db/embedded';
import { openFolder } from '../db/folder';
import { knownVersion, migrate } from '../db/migrate';
import { openPool } from '../db/pool';
import { examineLines } from '../logs/doctor';
import { examine } from '../store/doctor';
import { orphans } from './orphans';
import { unreadableStored } from './unreadable';

const { values } = parseArgs({ options: { data: { type: 'string', default: 'bussola-data' } } });

try {
  const url = process.env['DATABASE_URL'];
  const folder = url === undefined ? openFolder(values.data, knownVersion()) : null;
  const embedded = folder === null ? null : await startEmbedded(folder);
  const db = openPool(embedded?.connection ?? { connectionString: url as string }, 1, null);
  await migrate(db);
  const { chunks, points, batches, findings: damaged } = await examine(db);
  const lines = await examineLines(db);
  const unreadable = await unreadableStored(db);
  const findings = [
    ...damaged.map(({ what }) => what),
    ...lines.findings,
    ...unreadable.map(({ message }) => message),
    ...(await orphans(db))
  ];
  await db.close();
  await embedded?.close();
  folder?.release();
  process.stdout.write(
    `${chunks.toLocaleString('en')} chunks with ${points.toLocaleString('en')} samples, ${batches.toLocaleString('en')} batches in the journal.\n` +
      `${lines.segments.toLocaleString('en')} segments with ${lines.sealed.toLocaleString('en')} lines, ${lines.waiting.toLocaleString('en')} lines in the journal.\n`
  );
  if (embedded !== null) process.stdout.write('Commits are synced to the disk before they are confirmed.\n');
  for (const what of findings) process.stdout.write(`! ${what}\n`);
  process.stdout.write(findings.length === 0 ? 'Nothing is wrong.\n' : `${findings.length} findings.\n`);
  process.exitCode = findings.length === 0 ? 0 : 1;
} catch (error) {
  if (!(error instanceof Refusal)) throw error;
  process.stderr.write(`${error.message}\n${error.remedy}\n`);
  process.exitCode = 2;
}
