import { createWriteStream } from 'node:fs';
import { mkdir, rename, rm } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { createGzip } from 'node:zlib';
import { pack, type Pack } from 'tar-stream';
import { syncToDisk } from '../../base/disk';
import { oneRow, type Queryable } from '../../db/pool';
import { backupFormat, firstEntry, lastEntry, partName, type About, type End, type OnProgress } from './format';
import { RowsDigest } from './rows-digest';
import { countersOf, linesOf, tablesOf, writePlainly, type Table } from './tables';

/** Bytes of a part, about; a row is never cut. */
const partBytes = 4_000_000;

/** What was written. */
export interface WrittenBackup {
  readonly rows: number;
  readonly tables: number;
  readonly bytes: number;
}

/**
 * Writes everything that a database holds to one file. It is complete or not there: it has its name once all of it is on the disk.
 *
 * @param within a transaction that sees one state of the database (`repeatable read`, or nobody else there)
 * @param work a folder on the same disk, for what is not complete yet
 * @param about what the file says of itself; tables and migration are read from the database
 * @throws where the disk has no room, or the database fails; nothing is left behind then
 * @example await writeBackup(within, '/var/backups/bussola/today.tar.gz', '/var/backups/bussola/.work', { bussola: '0.1.0', madeAt, database: 'embedded' }, () => {})
 */
export async function writeBackup(
  within: Queryable,
  file: string,
  work: string,
  about: Pick<About, 'bussola' | 'madeAt' | 'database'>,
  onProgress: OnProgress
): Promise<WrittenBackup> {
  await mkdir(work, { recursive: true, mode: 0o700 });
  const part = join(work, 'part');
  await writePlainly(within);
  const tables = await tablesOf(within);
  const { migration } = oneRow(
    await within.rows<{ migration: number }>('select max(number)::integer as migration from migrations')
  );
  const sizes = await sizesOf(within);
  const all = tables.reduce((sum, { name }) => sum + (sizes.get(name) ?? 0), 0);
  const archive = pack();
  let [rows, before] = [0, 0];
  const fill = async (): Promise<void> => {
    const first: About = {
      ...{ format: backupFormat, ...about, migration, tables: tables.map(({ name }) => name) }
    };
    await entry(archive, firstEntry, JSON.stringify(first, null, 2));
    const end: End = { tables: {}, counters: [] };
    for (const table of tables) {
      const size = sizes.get(table.name) ?? 0;
      const digest = await writeTable(within, archive, table, (bytes) =>
        onProgress({ doing: `Writes ${table.name}`, share: (before + Math.min(size, bytes)) / Math.max(1, all) })
      );
      before += size;
      rows += digest.rows;
      end.tables[table.name] = { rows: digest.rows, digest: digest.text() };
    }
    end.counters.push(...(await countersOf(within)));
    await entry(archive, lastEntry, JSON.stringify(end, null, 2));
    archive.finalize();
  };
  const target = createWriteStream(part, { mode: 0o600 });
  try {
    await Promise.all([
      pipeline(archive, createGzip({ level: 4 }), target),
      fill().catch((error: Error) => {
        archive.destroy(error);
        throw error;
      })
    ]);
    syncToDisk(part);
    await rename(part, file);
    syncToDisk(dirname(file));
  } catch (error) {
    await rm(part, { force: true });
    throw error;
  }
  return { rows, tables: tables.length, bytes: target.bytesWritten };
}

async function writeTable(
  within: Queryable,
  archive: Pack,
  table: Table,
  onBytes: (bytes: number) => void
): Promise<RowsDigest> {
  const digest = new RowsDigest();
  let number = 0;
  let lines: string[] = [];
  let [size, bytes] = [0, 0];
  const flush = async (): Promise<void> => {
    if (lines.length === 0) return;
    await entry(archive, partName(table.name, ++number), `${lines.join('\n')}\n`);
    lines = [];
    size = 0;
  };
  for await (const some of linesOf(within, table)) {
    for (const line of some) {
      digest.add(line);
      lines.push(line);
      size += line.length;
      bytes += line.length;
      if (size >= partBytes) await flush();
    }
    onBytes(bytes);
  }
  await flush();
  return digest;
}

/** Waits until what is written has been taken, so that no more than a part is in memory. */
const entry = (archive: Pack, name: string, text: string): Promise<void> =>
  new Promise((resolve, reject) => {
    archive.entry({ name, mode: 0o600 }, text, (error) => (error ? reject(error) : resolve()));
  });

/** Bytes of each table, for progress alone. */
async function sizesOf(within: Queryable): Promise<ReadonlyMap<string, number>> {
  const rows = await within.rows<{ name: string; bytes: number }>(
    `select relname as name, pg_table_size(oid)::bigint as bytes
     from pg_class where relnamespace = current_schema()::regnamespace and relkind = 'r'`
  );
  return new Map(rows.map(({ name, bytes }) => [name, bytes]));
}
