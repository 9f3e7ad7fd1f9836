import { Refusal } from '$lib/core/problem/problem';
import { mendedText } from '$lib/core/forms/storable';
import { gunzipSync } from 'node:zlib';
import { CsvError, parse } from 'csv-parse/sync';
import { readAlarmFile, type ReadAlarmFile } from '$lib/core/alarm/file';
import { readBoardFile, type ReadBoardFile } from '$lib/core/board/file';
import { longestLine } from '$lib/core/openmetrics';
import { readJsonLines, readOpenMetrics, readOtlp, readRecords, refusals, type Received } from '$lib/core/receive';
import { linesOfBytes } from './lines-of-bytes';
import { decodeOtlp } from './otlp-protobuf';

/** Formats in which other programs send samples. */
export const receiveFormats = ['openmetrics', 'ndjson', 'csv', 'otlp-json', 'otlp-protobuf'] as const;
export type ReceiveFormat = (typeof receiveFormats)[number];

/** The body of a request, to be read as samples. */
export interface ReceiveTask {
  readonly format: ReceiveFormat;
  readonly body: Uint8Array;
  readonly isGzip: boolean;
  readonly now: number;
}

/** Bytes that a body may have once it is unpacked. */
export const mostUnpacked = 32 * 1024 * 1024;

/**
 * Reads a body as samples.
 *
 * @throws ReceiveFault when it is refused whole
 * @example receive({ format: 'csv', body, isGzip: false, now }).series.length
 */
export function receive({ format, body, isGzip, now }: ReceiveTask): Received {
  const bytes = isGzip ? unpacked(body) : body;
  if (format === 'otlp-protobuf') return readOtlp(fromProtobuf(bytes), now);
  if (format === 'otlp-json') return readOtlp(fromJson(bytes), now);
  const { text, broken } = linesOfBytes(bytes);
  const received =
    format === 'csv'
      ? readRecords(recordsOf(text), now)
      : format === 'ndjson'
        ? readJsonLines(text, now)
        : readOpenMetrics(text, now);
  return broken.length === 0 ? received : withBroken(received, broken);
}

/** The text of a board's file as a board, or what is wrong with it. */
export const boardFile = (text: string): ReadBoardFile => readBoardFile(text);

/** The text of a file of alarms, or what is wrong with it. */
export const alarmFile = (text: string): ReadAlarmFile => readAlarmFile(text);

/** Counts lines that are no UTF-8 among those that cannot be read. */
function withBroken(received: Received, broken: readonly number[]): Received {
  const example = `Line ${broken[0]} is no UTF-8.`;
  const others = received.refused.filter(({ reason }) => reason !== refusals.unreadable);
  const known = received.refused.find(({ reason }) => reason === refusals.unreadable);
  return {
    ...received,
    refused: [...others, { reason: refusals.unreadable, count: (known?.count ?? 0) + broken.length, example }],
    faults: [example, ...received.faults]
  };
}

function unpacked(packed: Uint8Array): Buffer {
  try {
    return gunzipSync(packed, { maxOutputLength: mostUnpacked });
  } catch (error) {
    throw (error as { code?: string }).code === 'ERR_BUFFER_TOO_LARGE'
      ? new Refusal(
          'too-large',
          `Unpacked, the body has more than ${mostUnpacked / 1048576} MiB.`,
          'Send it in several parts.'
        )
      : new Refusal('unreadable', 'The body is not gzip, although its header says so.', 'Send it again.');
  }
}

function fromProtobuf(bytes: Uint8Array): unknown {
  try {
    return decodeOtlp(bytes);
  } catch (problem) {
    throw new Refusal(
      'unreadable',
      `The body is no OTLP protobuf: ${wordsOf(problem)}.`,
      'Send a body that matches its content type.'
    );
  }
}

function fromJson(bytes: Uint8Array): unknown {
  try {
    return JSON.parse(new TextDecoder('utf-8', { fatal: true }).decode(bytes));
  } catch (problem) {
    throw new Refusal(
      'unreadable',
      `The body is no OTLP JSON: ${wordsOf(problem)}.`,
      'Send a body that matches its content type.'
    );
  }
}

const wordsOf = (problem: unknown): string =>
  problem instanceof Error ? mendedText(problem.message).slice(0, 200) : 'unreadable';

function* recordsOf(text: string): Generator<{ line: number; cells: string[] }> {
  try {
    const rows = parse(text, {
      info: true,
      relax_column_count: true,
      bom: true,
      skip_empty_lines: true,
      max_record_size: longestLine
    }) as unknown as { record: string[]; info: { lines: number } }[];
    for (const { record, info } of rows) yield { line: info.lines, cells: record };
  } catch (problem) {
    if (!(problem instanceof CsvError)) throw problem;
    throw new Refusal(
      'unreadable',
      `The table cannot be read: ${problem.message.slice(0, 200)}.`,
      'Send CSV (RFC 4180) with a header.'
    );
  }
}
