import { Refusal } from '$lib/core/problem/problem';
import { mendedText } from '$lib/core/forms/storable';
import { gunzipSync } from 'node:zlib';
import { CsvError, parse } from 'csv-parse/sync';
import { readAlarmFile, type ReadAlarmFile } from '$lib/core/alarm/file';
import { readBoardFile, type ReadBoardFile } from '$lib/core/board/file';
import { longestLine } from '$lib/core/openmetrics';
import { readJsonLines, readOpenMetrics, readOtlp, readRecords, refusals, type Received } from '$lib/core/receive';
import { readPage, type PageRule, type ReadPage, type ReadTarget } from '$lib/core/targets';
import { fromHeaders, readCloudEvents, type ArrivedEvents } from '$lib/core/events';
import { instant } from '$lib/core/time';
import { linesOfBytes } from './lines-of-bytes';
import {
  admit,
  applyRules,
  encodeBatch,
  rawBytes,
  readJsonLogs,
  readOtlpLogs,
  readSyslog,
  type Admission,
  type Arrived,
  type LeftOut,
  type Origin,
  type RuleHits,
  type RuleInForce
} from '$lib/core/logs';
import { decodeOtlp, decodeOtlpLogs } from './otlp-protobuf';

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
  if (format === 'otlp-protobuf') return readOtlp(fromProtobuf(bytes, decodeOtlp), now);
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

/** An OpenMetrics page, to be read as samples of its target. */
export interface PageTask {
  readonly body: Uint8Array;
  readonly target: ReadTarget;
  readonly rules: readonly PageRule[];
  readonly now: number;
}

/** Reads a page. @throws Refusal when it is refused whole */
export function readTargetPage({ body, target, rules, now }: PageTask): ReadPage {
  const { text, broken } = linesOfBytes(body);
  const page = readPage(text, target, rules, now);
  return broken.length === 0 ? page : { ...page, ...withBroken(page, broken) };
}

/** Formats in which other programs send lines. */
export const lineFormats = ['ndjson', 'otlp-json', 'otlp-protobuf', 'syslog'] as const;
export type LineFormat = (typeof lineFormats)[number];

/** The body of a request, to be read as lines. */
export interface LinesTask extends Omit<ReceiveTask, 'format'> {
  readonly format: LineFormat;
  /** Which of them are collected; all of them where nothing is said. */
  readonly admission?: Admission;
  /** What is left out of them and masked in them. */
  readonly rules: readonly RuleInForce[];
}

/** Lines that were read, as they are journalled, and what was not taken. */
export interface ReceivedLines extends Omit<Arrived, 'batches'> {
  readonly batches: readonly {
    readonly origin: Origin;
    readonly lines: number;
    readonly batch: Uint8Array<ArrayBuffer>;
  }[];
  /** Lines that a plan does not collect, or a rule leaves out. */
  readonly leftOut: LeftOut;
  /** Lines that rules left out or masked, by the rule. */
  readonly ruled: RuleHits;
  /** Bytes of those that are collected, about as they came. */
  readonly bytes: number;
}

/**
 * Reads a body as lines.
 *
 * @throws Refusal when it is refused whole
 */
export function receiveLines({ format, body, isGzip, now, admission, rules }: LinesTask): ReceivedLines {
  const unpackedBody = isGzip ? unpacked(body) : body;
  const { batches: arrived, ...rest } = arrivedFrom(format, unpackedBody, now);
  const { batches: admitted, leftOut: byPlan } = admit(admission ?? everyLine, arrived);
  const { batches, hits: ruled, leftOut: byRule } = applyRules(rules, admitted);
  return {
    ...rest,
    batches: batches.map(({ origin, lines }) => ({ origin, lines: lines.length, batch: encodeBatch(origin, lines) })),
    leftOut: { ...byPlan, rule: byRule },
    ruled,
    bytes: batches.reduce((sum, { lines }) => lines.reduce((all, line) => all + rawBytes(line), sum), 0)
  };
}

const everyLine: Admission = { from: 0, namespaces: [], leaveOut: '' };

function arrivedFrom(format: LineFormat, bytes: Uint8Array, now: number): Arrived {
  if (format === 'otlp-protobuf') return readOtlpLogs(fromProtobuf(bytes, decodeOtlpLogs), now, 'base64');
  if (format === 'otlp-json') return readOtlpLogs(fromJson(bytes), now, 'hex');
  if (format === 'syslog') return readSyslog(bytes, now);
  // Bytes that are no UTF-8 become U+FFFD: a line is read by people, and is worth keeping with a hole in it.
  return readJsonLogs(new TextDecoder().decode(bytes), now);
}

/** The body of a request, to be read as events. */
export interface EventsTask {
  readonly body: Uint8Array;
  readonly isGzip: boolean;
  readonly now: number;
  /** Of the body itself, where the attributes of an event are in headers; null where all of it is in the body. */
  readonly inHeaders: { readonly mediaType: string; readonly headers: Readonly<Record<string, string>> } | null;
}

/**
 * Reads a body as CloudEvents.
 *
 * @throws Refusal when it is refused whole
 */
export function receiveEvents({ body, isGzip, now, inHeaders }: EventsTask): ArrivedEvents {
  const bytes = isGzip ? unpacked(body) : body;
  if (inHeaders === null) return readCloudEvents(fromJson(bytes, 'CloudEvents in JSON'), instant(now));
  const { mediaType, headers } = inHeaders;
  const isJson = mediaType === 'application/json' || mediaType.endsWith('+json');
  const data =
    bytes.length === 0
      ? undefined
      : isJson
        ? fromJson(bytes, 'JSON')
        : new TextDecoder().decode(bytes.subarray(0, 64_000));
  return readCloudEvents(fromHeaders(headers, data), instant(now));
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

function fromProtobuf(bytes: Uint8Array, decode: (bytes: Uint8Array) => unknown): unknown {
  try {
    return decode(bytes);
  } catch (problem) {
    throw new Refusal(
      'unreadable',
      `The body is no OTLP protobuf: ${wordsOf(problem)}.`,
      'Send a body that matches its content type.'
    );
  }
}

function fromJson(bytes: Uint8Array, what = 'OTLP JSON'): unknown {
  try {
    return JSON.parse(new TextDecoder('utf-8', { fatal: true }).decode(bytes));
  } catch (problem) {
    throw new Refusal(
      'unreadable',
      `The body is no ${what}: ${wordsOf(problem)}.`,
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
