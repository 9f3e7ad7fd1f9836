// Reads pages eight at a time and writes a row a sample into an embedded database; sends the processor time of one round, s, all threads.
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { readExposition } from '../src/lib/core/openmetrics';
import { startEmbedded } from '../src/lib/server/db/embedded';
import { openFolder } from '../src/lib/server/db/folder';
import { openPool } from '../src/lib/server/db/pool';

const [url = '', count = '0'] = process.argv.slice(2);
const rounds = 3;
const path = mkdtempSync(join(tmpdir(), 'bussola-bench-'));
const folder = openFolder(path, 1);
const database = await startEmbedded(folder);
const db = openPool(database.connection);
await db.rows('create table plain (series text, at bigint, value double precision, primary key (series, at))');

async function readOne(number: number, at: number): Promise<void> {
  const text = await (await fetch(`${url}/${number}/metrics`)).text();
  const { samples } = readExposition(text);
  await db.rows('insert into plain select * from unnest($1::text[], $2::bigint[], $3::double precision[])', [
    samples.map(({ name, labels }) => `target-${number} ${name} ${JSON.stringify(labels)}`),
    samples.map(() => at),
    samples.map(({ value }) => value)
  ]);
}

async function round(at: number): Promise<void> {
  let next = 0;
  const lane = async (): Promise<void> => {
    while (next < Number(count)) await readOne(next++, at);
  };
  await Promise.all(Array.from({ length: 8 }, lane));
}

await round(0);
const before = process.cpuUsage();
for (let i = 1; i <= rounds; i++) await round(i * 15_000);
const { user, system } = process.cpuUsage(before);
process.send?.((user + system) / 1e6 / rounds);
await db.close();
await database.close();
folder.release();
rmSync(path, { recursive: true, force: true });
process.exit(0);
