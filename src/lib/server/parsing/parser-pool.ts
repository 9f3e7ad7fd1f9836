import { Refusal, refusalOf } from '$lib/core/problem/problem';
import { resolve } from 'node:path';
import { Piscina } from 'piscina';
import type { ReadAlarmFile } from '$lib/core/alarm/file';
import type { ReadBoardFile } from '$lib/core/board/file';
import type { ArrivedEvents } from '$lib/core/events';
import { type Received } from '$lib/core/receive';
import type { ReadAgreementFile } from '$lib/core/agreements';
import type { ReadOnCallFile } from '$lib/core/notify/on-call-file';
import type { ReadCalendar } from '$lib/core/rota';
import type { ReadPage } from '$lib/core/targets';
import type { Range } from '$lib/core/time';
import { unbundled } from '../base/built';
import { threadFault } from '../base/thread-fault';
import { unpackReceived } from './packed';
import type { ParserResult, ParserTask } from './parser.worker';
import type { EventsTask, LinesTask, PageTask, ReceivedLines, ReceiveTask } from './tasks';

/** Reads what comes from outside in threads of their own, each for so long and with so much memory. */
export interface ParserPool {
  /** @throws ReceiveFault when it is refused whole; ReadingFault when it takes too much, or too much waits */
  receive(task: ReceiveTask): Promise<Received>;
  /** Reads an OpenMetrics page. @throws Refusal when it is refused whole, takes too much, or too much waits */
  page(task: PageTask): Promise<ReadPage>;
  /** @throws Refusal when it is refused whole, takes too much, or too much waits */
  lines(task: LinesTask): Promise<ReceivedLines>;
  /** Reads CloudEvents. @throws Refusal when it is refused whole, takes too much, or too much waits */
  events(task: EventsTask): Promise<ArrivedEvents>;
  /** @throws ReadingFault when it takes too much, or too much waits */
  boardFile(text: string): Promise<ReadBoardFile>;
  /** Reads the text of a file of alarms. @throws Refusal when reading it takes too much */
  alarmFile(text: string): Promise<ReadAlarmFile>;
  /** Reads the text of a file of routes, rotas and channels. @throws Refusal when reading it takes too much */
  onCallFile(text: string): Promise<ReadOnCallFile>;
  /** A file of budgets, promises, responses and summaries. */
  agreementFile(text: string): Promise<ReadAgreementFile>;
  /** Reads the text of an iCalendar file. @throws Refusal when reading it takes too much */
  calendar(text: string, within: Range, zone: string): Promise<ReadCalendar>;
  close(): Promise<void>;
}

export interface ReadingLimits {
  /** How long one reading may take, ms. */
  readonly patienceMs: number;
  /** Memory of a thread, MB. */
  readonly memoryMb: number;
  /** How many may wait; more are refused. */
  readonly mostWaiting: number;
}

/** Threads that read at the same time. */
const threads = 2;

const usualLimits: ReadingLimits = { patienceMs: 10_000, memoryMb: 400, mostWaiting: 64 };
/** A thread that is started from sources, in development and tests, first compiles them. */
const compilingMs = 50_000;

/**
 * Opens the room: threads are started when there is something to read, and end after a while without.
 *
 * @example const received = await parserPool().receive({ format: 'csv', body, isGzip: false, now })
 */
export function parserPool(limits: Partial<ReadingLimits> = {}): ParserPool {
  const worker = unbundled('parsing/parser.worker.ts');
  const usual = worker.endsWith('.ts')
    ? { ...usualLimits, patienceMs: usualLimits.patienceMs + compilingMs }
    : usualLimits;
  const { patienceMs, memoryMb, mostWaiting } = { ...usual, ...limits };
  // From the working directory, the project's folder: sources run in development and tests only.
  const filename = worker.endsWith('.ts') ? resolve('scripts/parser-worker.mjs') : worker;
  const pool = new Piscina<ParserTask, ParserResult>({
    filename,
    minThreads: 0,
    maxThreads: threads,
    idleTimeout: 30_000,
    resourceLimits: { maxOldGenerationSizeMb: memoryMb, maxYoungGenerationSizeMb: 32 }
  });

  let taken = 0;

  async function read(task: ParserTask): Promise<ParserResult> {
    const waiting = taken - threads;
    if (waiting >= mostWaiting)
      throw new Refusal('busy', 'Too much is waiting to be read.', 'Send it again in a few seconds.');
    // What waits for its turn is not timed: its patience starts with its turn, within that of all before it.
    const signal = AbortSignal.timeout(patienceMs * (1 + Math.max(0, Math.ceil(waiting / threads))));
    taken++;
    try {
      return await pool.run(task, { signal });
    } catch (error) {
      throw threadFault(error, patienceMs);
    } finally {
      taken--;
    }
  }

  return {
    receive: async (task) => {
      const reading = await read({ kind: 'receive', task });
      if (reading.kind === 'received') return unpackReceived(reading.received);
      if (reading.kind === 'refused') throw refusalOf(reading.problem);
      throw new Error(`parserPool: expected samples, got a ${reading.kind}`);
    },
    page: async (task) => {
      const reading = await read({ kind: 'page', task });
      if (reading.kind === 'page') {
        const { samples, leftOut, ...packed } = reading.page;
        return { ...unpackReceived(packed), samples, leftOut };
      }
      if (reading.kind === 'refused') throw refusalOf(reading.problem);
      throw new Error(`parserPool: expected a page, got a ${reading.kind}`);
    },
    lines: async (task) => {
      const reading = await read({ kind: 'lines', task });
      if (reading.kind === 'lines') return reading.received;
      if (reading.kind === 'refused') throw refusalOf(reading.problem);
      throw new Error(`parserPool: expected lines, got a ${reading.kind}`);
    },
    events: async (task) => {
      const reading = await read({ kind: 'events', task });
      if (reading.kind === 'events') return reading.received;
      if (reading.kind === 'refused') throw refusalOf(reading.problem);
      throw new Error(`parserPool: expected events, got a ${reading.kind}`);
    },
    boardFile: async (text) => {
      const reading = await read({ kind: 'board file', text });
      if (reading.kind !== 'board file') throw new Error(`parserPool: expected a board file, got ${reading.kind}`);
      return reading.file;
    },
    calendar: async (text, within, zone) => {
      const reading = await read({ kind: 'calendar', text, within, zone });
      if (reading.kind !== 'calendar') throw new Error(`parserPool: expected a calendar, got a ${reading.kind}`);
      return reading.calendar;
    },
    alarmFile: async (text) => {
      const reading = await read({ kind: 'alarm file', text });
      if (reading.kind !== 'alarm file') throw new Error(`parserPool: expected a file of alarms, got ${reading.kind}`);
      return reading.file;
    },
    onCallFile: async (text) => {
      const reading = await read({ kind: 'on-call file', text });
      if (reading.kind !== 'on-call file')
        throw new Error(`parserPool: expected a file of routes, got ${reading.kind}`);
      return reading.file;
    },
    agreementFile: async (text) => {
      const reading = await read({ kind: 'agreement file', text });
      if (reading.kind !== 'agreement file')
        throw new Error(`parserPool: expected a file of budgets and promises, got ${reading.kind}`);
      return reading.file;
    },
    close: () => pool.destroy()
  };
}
