import { createReadStream, statSync } from 'node:fs';
import { createGunzip } from 'node:zlib';
import { buffer } from 'node:stream/consumers';
import { extract, type Entry } from 'tar-stream';
import type { z } from 'zod';
import { Refusal } from '$lib/core/problem/problem';
import { aboutSchema, backupFormat, endSchema, firstEntry, lastEntry, type About, type End } from './format';

/** What is done with the parts of a backup as they are read. */
export interface BackupReader {
  /** Called first. It may refuse. */
  about(about: About): Promise<void>;
  /** Called for each part of a table. @param share how much of the file has been read, of 1 */
  rows(table: string, lines: string[], share: number): Promise<void>;
}

/** No part is larger than this: one row that could not be cut may take more than the usual. */
const mostBytes = 512_000_000;

/**
 * Reads a backup from its first entry to its last, which must be there.
 *
 * @throws Refusal `backup-unreadable` where it is none, was cut short or was changed; what the reader throws
 * @example await readBackup('today.tar.gz', { about: async () => {}, rows: async (table, lines) => console.log(table, lines.length) })
 */
export async function readBackup(file: string, reader: BackupReader): Promise<{ about: About; end: End }> {
  const size = sizeOf(file);
  const source = createReadStream(file);
  const gunzip = createGunzip();
  const entries = extract();
  // Whatever ends one of them ends the loop below with its error.
  source.on('error', (error) => gunzip.destroy(error));
  gunzip.on('error', (error) => entries.destroy(error));
  source.pipe(gunzip).pipe(entries);
  let about: About | null = null;
  let end: End | null = null;
  try {
    for await (const entry of entries as AsyncIterable<Entry>) {
      const { name, size: bytes = 0, type } = entry.header;
      if (type !== 'file') throw unreadable(file, `“${name}” in it is no file`);
      if (bytes > mostBytes) throw unreadable(file, `“${name}” in it has ${bytes.toLocaleString('en')} bytes`);
      const text = (await buffer(entry)).toString('utf8');
      if (about === null) {
        if (name !== firstEntry) throw unreadable(file, 'it does not begin as a backup does');
        about = parsed(file, text, aboutSchema);
        await reader.about(about);
      } else if (end !== null) throw unreadable(file, 'it goes on after its end');
      else if (name === lastEntry) end = parsed(file, text, endSchema);
      else await reader.rows(tableOf(file, name, about), text.split('\n').slice(0, -1), source.bytesRead / size);
    }
  } catch (error) {
    if (isBroken(error)) throw unreadable(file, 'it was cut short, or changed', error);
    throw error;
  } finally {
    source.destroy();
    gunzip.destroy();
  }
  if (about === null || end === null) throw unreadable(file, 'it was cut short');
  return { about, end };
}

function sizeOf(file: string): number {
  try {
    return statSync(file).size;
  } catch (error) {
    throw unreadable(
      file,
      (error as NodeJS.ErrnoException).code === 'ENOENT' ? 'it is not there' : String(error),
      error
    );
  }
}

function tableOf(file: string, name: string, { tables }: About): string {
  const table = /^tables\/([^/]+)\/\d{6}\.jsonl$/.exec(name)?.[1];
  if (table === undefined || !tables.includes(table)) throw unreadable(file, `it has “${name}”, which is no table’s`);
  return table;
}

function parsed<Schema extends z.ZodType>(file: string, text: string, schema: Schema): z.output<Schema> {
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch (error) {
    throw unreadable(file, 'what it says of itself is no JSON', error);
  }
  const { format } = (value ?? {}) as { format?: unknown };
  if (typeof format === 'number' && format > backupFormat)
    throw new Refusal(
      'newer-data',
      `${file} was written by a newer Bussola.`,
      'Restore it with that one. Nothing was changed.'
    );
  const read = schema.safeParse(value);
  if (!read.success) throw unreadable(file, 'what it says of itself does not fit');
  return read.data;
}

/** What zlib and tar throw for a file that is damaged. */
const isBroken = (error: unknown): boolean =>
  error instanceof Error &&
  !(error instanceof Refusal) &&
  (/^(Z_|ERR_)/.test((error as NodeJS.ErrnoException).code ?? '') ||
    /Unexpected end of data|Invalid tar header|premature close|Writable stream closed/i.test(error.message));

const unreadable = (file: string, why: string, cause?: unknown): Refusal =>
  new Refusal(
    'backup-unreadable',
    `${file} cannot be read as a backup: ${why}.`,
    'Take another backup. Nothing was changed.',
    { cause }
  );
