import { pipeline, Readable } from 'node:stream';
import { createGunzip } from 'node:zlib';
import { CsvError, parse } from 'csv-parse';
import { columnProblems, neededColumns, readFocusRow, type ReadRow } from '$lib/core/cost/focus';
import { Refusal } from '$lib/core/problem/problem';
import type { RejectedRows } from './bill-reads';

/** What a file has at most: unpacked bytes, and rows. */
const usualLimits = { bytes: 1024 ** 3, rows: 2_000_000 };
/** Bytes of a row, and rejected rows that are named, at most. */
const [mostRowBytes, mostNamed] = [262_144, 100];

/** What came of reading a file: every row that was read, and those that were not. */
export interface FocusFileRead {
  readonly rows: number;
  readonly rejected: RejectedRows;
}

/**
 * Reads a FOCUS file row by row. A row that does not fit the specification costs itself alone, and is named.
 *
 * @param take what is done with each row that is read; it says why it does not want one
 * @throws Refusal `unreadable` for what is no such file, `too-large`
 */
export async function readFocusFile(
  file: Uint8Array,
  isGzip: boolean,
  take: (row: ReadRow) => string | null,
  limits = usualLimits
): Promise<FocusFileRead> {
  let bytes = 0;
  const counted = async function* (parts: AsyncIterable<Buffer>) {
    for await (const part of parts) {
      bytes += part.length;
      if (bytes > limits.bytes) throw tooLarge(`${Math.floor(limits.bytes / 1024 ** 2)} MiB unpacked`);
      yield part;
    }
  };
  const source = Readable.from([Buffer.from(file.buffer, file.byteOffset, file.byteLength)]);
  const unpacked = isGzip ? source.pipe(createGunzip()) : source;
  const parser = parse({
    ...{ columns: headerOf, bom: true, info: true, relax_column_count: true, skip_empty_lines: true },
    max_record_size: mostRowBytes
  });
  const rejected: { count: number; first: { line: number; why: string }[] } = { count: 0, first: [] };
  let rows = 0;
  try {
    // What fails on its way ends the parser as well, so that it is heard of here.
    pipeline(Readable.from(counted(unpacked)), parser, () => undefined);
    for await (const found of parser.iterator()) {
      const { record, info } = found as { record: Record<string, string>; info: { lines: number } };
      if (++rows > limits.rows) throw tooLarge(`${limits.rows} rows`);
      const read = readFocusRow(record);
      const why = read.kind === 'read' ? take(read) : read.why;
      if (why !== null && ++rejected.count <= mostNamed) rejected.first.push({ line: info.lines, why });
    }
  } catch (error) {
    if (error instanceof Refusal) throw error;
    if (error instanceof CsvError) throw unreadable(`The file is no CSV: ${error.message}.`, error);
    if (isZlib(error)) throw unreadable('The file is damaged: it cannot be unpacked.', error);
    throw error;
  }
  return { rows, rejected };
}

/** The names of the columns. @throws Refusal where some are missing */
function headerOf(names: string[]): string[] {
  const problems = columnProblems(names, neededColumns);
  if (problems.length > 0) throw unreadable(problems.join(' '));
  return names;
}

const isZlib = (error: unknown): boolean =>
  error instanceof Error && ((error as { code?: string }).code ?? '').startsWith('Z_');

const unreadable = (message: string, cause?: unknown) =>
  new Refusal('unreadable', message, 'Export the file again, as FOCUS 1.0 in CSV.', { cause });
const tooLarge = (most: string) =>
  new Refusal('too-large', `The file has more than ${most}.`, 'Export shorter periods, one file each.');
