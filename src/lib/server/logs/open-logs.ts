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
  const { logs } = Comlink.wrap<{ logs: LogStore }>(nodeEndpoint(worker)) as unknown as {
    logs: Comlink.Remote<LogStore>;
  };
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
    onLoss: (listener) => void exited.catch((error: Error) => !closing && listener(error)),
    close: async () => {
      closing = true;
      await logs.close();
      await worker.terminate();
    }
  };
}
