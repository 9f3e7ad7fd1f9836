import { resolve } from 'node:path';
import { Piscina } from 'piscina';
import type { ConnectorRequest } from '$lib/core/connector';
import { Refusal, refusalOf } from '$lib/core/problem/problem';
import { unbundled } from '../../base/built';
import type { ConnectorResult, ConnectorTask } from './thread/connector.worker';
import type { Bindings, Prelude } from './thread/evaluate';
import type { MappedAnswer, MapTask, PreparedRequest, ReadConnector } from './thread/tasks';

/** Threads in which expressions of connectors are evaluated, each for so long and with so much memory. */
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
  /** How long the expressions of one request or answer may take, ms. */
  readonly patienceMs: number;
  /** Memory of a thread, MB. */
  readonly memoryMb: number;
  /** How many may wait; more are refused. */
  readonly mostWaiting: number;
}

const threads = 2;
const usualLimits: ExpressionLimits = { patienceMs: 5000, memoryMb: 300, mostWaiting: 256 };
/** A thread that is started from sources, in development and tests, first compiles them. */
const compilingMs = 50_000;

/**
 * Opens the room of connectors: threads are started when there is something to evaluate, and one whose expression does not end is ended.
 *
 * @example const { path } = await connectorPool().prepare({ values: {}, functions: {} }, request, { page: 2 })
 */
export function connectorPool(limits: Partial<ExpressionLimits> = {}): ConnectorPool {
  const worker = unbundled('providers/connector/thread/connector.worker.ts');
  const isSource = worker.endsWith('.ts');
  const { patienceMs, memoryMb, mostWaiting } = { ...usualLimits, ...limits };
  let isStarted = !isSource;
  const pool = new Piscina<ConnectorTask, ConnectorResult>({
    filename: isSource ? resolve('scripts/connector-worker.mjs') : worker,
    minThreads: 0,
    maxThreads: threads,
    idleTimeout: 30_000,
    // Nothing of the process is in its reach: neither its settings nor its output.
    env: {},
    resourceLimits: { maxOldGenerationSizeMb: memoryMb, maxYoungGenerationSizeMb: 32 }
  });
  let taken = 0;

  async function run<Kind extends ConnectorResult['kind']>(
    task: ConnectorTask & { kind: Kind }
  ): Promise<Extract<ConnectorResult, { kind: Kind }>> {
    const waiting = taken - threads;
    if (waiting >= mostWaiting)
      throw new Refusal('busy', 'Too many expressions of connectors are waiting.', 'Try again in a few seconds.');
    const turns = 1 + Math.max(0, Math.ceil(waiting / threads));
    const signal = AbortSignal.timeout(patienceMs * turns + (isStarted ? 0 : compilingMs));
    taken++;
    try {
      const result = await pool.run(task, { signal });
      isStarted = true;
      if (result.kind === 'refused') throw refusalOf(result.problem);
      return result as Extract<ConnectorResult, { kind: Kind }>;
    } catch (error) {
      if (!(error instanceof Refusal)) isStarted = !isSource; // the thread was ended
      throw expressionFault(error, patienceMs);
    } finally {
      taken--;
    }
  }

  return {
    read: async (text) => (await run({ kind: 'read', text })).read,
    prepare: async (prelude, request, bindings) =>
      (await run({ kind: 'prepare', prelude, request, bindings })).prepared,
    map: async (prelude, task) => (await run({ kind: 'map', prelude, task })).mapped,
    take: async (prelude, task) => (await run({ kind: 'take', prelude, task })).taken,
    close: () => pool.destroy()
  };
}

function expressionFault(error: unknown, patienceMs: number): unknown {
  if (!(error instanceof Error)) return error;
  if (error.name === 'AbortError')
    return new Refusal(
      'too-large',
      `An expression of the connector did not end within ${patienceMs / 1000} s.`,
      'Look for a function that calls itself without end, or request less at once.'
    );
  if ((error as { code?: string }).code === 'ERR_WORKER_OUT_OF_MEMORY')
    return new Refusal(
      'too-large',
      'An expression of the connector took more memory than there is for it.',
      'Request less at once.'
    );
  return error;
}
