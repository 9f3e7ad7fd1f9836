import { MessageChannel, type MessagePort } from 'node:worker_threads';
import * as Comlink from 'comlink';
import nodeEndpoint from 'comlink/dist/esm/node-adapter.mjs';
import { startThread } from '../base/built';
import type { Connection } from '../db/pool';
import type { LogStore } from './log-store';

/** Lines, reached across their thread's border: every method gives a promise. */
export interface LogClient {
  readonly logs: Comlink.Remote<LogStore>;
  /** Resolves when what waits in the journal has been read. */
  readonly ready: Promise<void>;
  /** A port through which another thread counts lines, see `Evaluator.countLinesBy`. */
  port(): Promise<MessagePort>;
  onLoss(listener: (error: Error) => void): void;
  close(): Promise<void>;
}

/**
 * Starts the thread that keeps and searches lines.
 *
 * @example const client = openLogs(embedded.connection); await client.ready
 */
export function openLogs(connection: Connection): LogClient {
  const worker = startThread('logs/logs.worker.ts', connection);
  const thread = Comlink.wrap<{ logs: LogStore; serve: (port: MessagePort) => void }>(nodeEndpoint(worker));
  const logs = thread.logs as unknown as Comlink.Remote<LogStore>;
  let closing = false;
  let lost: Error | null = null;
  const exited = new Promise<never>((_resolve, reject) => {
    worker.once('error', (error) => (lost = error));
    worker.once('exit', (code) => reject(lost ?? new Error(`The thread of the lines ended with code ${code}.`)));
  });
  exited.catch(() => undefined); // said by onLoss; here only so that it never goes unhandled
  return {
    logs,
    ready: Promise.race([logs.open(), exited]),
    port: async () => {
      const { port1, port2 } = new MessageChannel();
      await thread.serve(Comlink.transfer(port1, [port1 as unknown as Transferable]));
      return port2;
    },
    onLoss: (listener) => void exited.catch((error: Error) => !closing && listener(error)),
    close: async () => {
      closing = true;
      await logs.close();
      await worker.terminate();
    }
  };
}
