import type { Worker } from 'node:worker_threads';
import * as Comlink from 'comlink';
import { encodeBatch, type BatchBlock } from '$lib/core/series';
import type { Instant } from '$lib/core/time';
import nodeEndpoint from 'comlink/dist/esm/node-adapter.mjs';
import { startThread } from '../base/built';
import type { Connection } from '../db/pool';
import type { Appended, SampleStore } from './sample-store';

/** The store, reached across its thread's border: every method gives a promise. */
export interface StoreClient {
  readonly samples: Comlink.Remote<SampleStore>;
  /** Keeps a batch; resolves when it is in the journal. */
  append(accountId: number, receivedAt: Instant, blocks: readonly BatchBlock[]): Promise<Appended>;
  /** Resolves when the head has been rebuilt. */
  readonly ready: Promise<void>;
  /** Its thread, which may hold more than the store. */
  readonly worker: Worker;
  onLoss(listener: (error: Error) => void): void;
  close(): Promise<void>;
}

/**
 * Starts the store's thread and begins to rebuild the head.
 *
 * @param entry the thread's file below `src/lib/server`: it exposes the store as `samples`
 * @example const store = openStore(embedded.connection); await store.ready
 */
export function openStore(connection: Connection, entry = 'store/store.worker.ts'): StoreClient {
  const worker = startThread(entry, connection);
  const thread = Comlink.wrap<{ samples: SampleStore }>(nodeEndpoint(worker));
  const samples = thread.samples as unknown as Comlink.Remote<SampleStore>;
  let closing = false;
  let lost: Error | null = null;
  const exited = new Promise<never>((_resolve, reject) => {
    worker.once('error', (error) => (lost = error));
    worker.once('exit', (code) => reject(lost ?? new Error(`The store's thread ended with code ${code}.`)));
  });
  exited.catch(() => undefined); // told by onLoss; here only so that it never goes unhandled
  return {
    samples,
    worker,
    append: (accountId, receivedAt, blocks) => {
      const bytes = encodeBatch(blocks);
      return samples.append(accountId, receivedAt, Comlink.transfer(bytes, [bytes.buffer]));
    },
    ready: Promise.race([samples.open(), exited]),
    onLoss: (listener) => void exited.catch((error: Error) => !closing && listener(error)),
    close: async () => {
      closing = true;
      await samples.close();
      await worker.terminate();
    }
  };
}
