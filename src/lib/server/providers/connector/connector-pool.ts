import { resolve } from 'node:path';
import workerpool, { type Pool } from 'workerpool';
import type { ConnectorRequest } from '$lib/core/connector';
import { Refusal, refusalOf } from '$lib/core/problem/problem';
import { unbundled } from '../../base/built';
import type { ConnectorResult, ConnectorTask } from './expressions/connector.worker';
import type { Bindings, Prelude } from './expressions/evaluate';
import type { MappedAnswer, MapTask, PreparedRequest, ReadConnector } from './expressions/tasks';

/** Processes in which expressions of connectors are evaluated, each for so long and with so much memory. */
export interface ConnectorPool {
  /** Reads the text of a connector, and each of its expressions. */
  read(text: string): Promise<ReadConnector>;
  /** @throws Refusal where an expression fails or does not end */
  prepare(prelude: Prelude, request: ConnectorRequest, bindings: Bindings): Promise<PreparedRequest>;
  /** @throws Refusal where an expression fails or does not end, or what it gives does not fit */
  map(prelude: Prelude, task: MapTask): Promise<MappedAnswer>;
  /** @throws Refusal where an expression fails or does not end */
  take(
    prelude: Prelude,
    task: Pick<MapTask, 'body' | 'path' | 'take' | 'bindings'>
  ): Promise<Readonly<Record<string, unknown>>>;
  close(): Promise<void>;
}

export interface ExpressionLimits {
  /** How long the expressions of one request or answer may take once their process has started, ms. */
  readonly patienceMs: number;
  /** Memory of a process, MB. */
  readonly memoryMb: number;
  /** How many may wait; more are refused. */
  readonly mostWaiting: number;
  /** How long a process may take to start, ms: whoever waits for it is given that besides. */
  readonly startingMs: number;
}

const processes = 2;
const usualLimits: ExpressionLimits = { patienceMs: 5000, memoryMb: 200, mostWaiting: 256, startingMs: 3000 };
/** A process that is started from sources, in development and tests, first compiles them. */
const compilingMs = 50_000;
/** Processes that have had nothing to do for so long are ended, ms. */
const idleMs = 60_000;

/**
 * Opens the room of connectors: processes are started when there is something to evaluate, and one whose expression does not end is ended. They are
 * processes and not threads, since a list without end in a thread would take the whole process with it.
 *
 * @example const { path } = await connectorPool().prepare({ values: {}, functions: {} }, request, { page: 2 })
 */
export function connectorPool(limits: Partial<ExpressionLimits> = {}): ConnectorPool {
  const worker = unbundled('providers/connector/expressions/connector.worker.ts');
  const isSource = worker.endsWith('.ts');
  const usual = isSource ? { ...usualLimits, startingMs: compilingMs } : usualLimits;
  const { patienceMs, memoryMb, mostWaiting, startingMs } = { ...usual, ...limits };
  let pool: Pool | null = null;
  let taken = 0;
  let idle: NodeJS.Timeout | undefined;

  const opened = (): Pool =>
    (pool ??= workerpool.pool(isSource ? resolve('scripts/connector-worker.mjs') : worker, {
      maxWorkers: processes,
      workerType: 'process',
      workerTerminateTimeout: 100,
      emitStdStreams: true, // what it writes is nobody’s to read
      forkOpts: {
        // Nothing of the process is in its reach: neither its settings nor its output.
        env: {},
        execArgv: [`--max-old-space-size=${memoryMb}`],
        serialization: 'advanced'
      }
    }));

  async function run<Kind extends ConnectorResult['kind']>(
    task: ConnectorTask & { kind: Kind }
  ): Promise<Extract<ConnectorResult, { kind: Kind }>> {
    if (taken - processes >= mostWaiting)
      throw new Refusal('busy', 'Too many expressions of connectors are waiting.', 'Try again in a few seconds.');
    clearTimeout(idle);
    taken++;
    try {
      const result = (await opened()
        .exec('work', [task])
        // It is counted from when its turn has come.
        .timeout(patienceMs + startingMs)) as ConnectorResult;
      if (result.kind === 'refused') throw refusalOf(result.problem);
      return result as Extract<ConnectorResult, { kind: Kind }>;
    } catch (error) {
      throw expressionFault(error, patienceMs + startingMs);
    } finally {
      taken--;
      if (taken === 0) idle = setTimeout(() => void ended(), idleMs).unref();
    }
  }

  async function ended(): Promise<void> {
    clearTimeout(idle);
    const last = pool;
    pool = null;
    await last?.terminate(true);
  }

  return {
    read: async (text) => (await run({ kind: 'read', text })).read,
    prepare: async (prelude, request, bindings) =>
      (await run({ kind: 'prepare', prelude, request, bindings })).prepared,
    map: async (prelude, task) => (await run({ kind: 'map', prelude, task })).mapped,
    take: async (prelude, task) => (await run({ kind: 'take', prelude, task })).taken,
    close: ended
  };
}

/** How a process ends that has no memory left, and how one that is ended from outside. */
const outOfMemory = /signalCode: `SIGABRT`|exitCode: `13[47]`/;
const fromOutside = /signalCode: `SIG(INT|TERM|KILL|HUP)`/;

function expressionFault(error: unknown, limitMs: number): unknown {
  if (!(error instanceof Error) || error instanceof Refusal) return error;
  if (error.name === 'TimeoutError')
    return new Refusal(
      'too-large',
      `An expression of the connector did not end within ${limitMs / 1000} s.`,
      'Look for a function that calls itself without end, or request less at once.'
    );
  if (fromOutside.test(error.message))
    return new Refusal('busy', 'The process of the expressions was ended.', 'Nothing: it is tried again by itself.');
  if (outOfMemory.test(error.message))
    return new Refusal(
      'too-large',
      'An expression of the connector took more memory than there is for it.',
      'Look for a list or a text that grows without end, or request less at once.'
    );
  return error;
}
