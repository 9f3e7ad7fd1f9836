import type { Worker } from 'node:worker_threads';
import * as Comlink from 'comlink';
import nodeEndpoint from 'comlink/dist/esm/node-adapter.mjs';
import { Refusal } from '$lib/core/problem/problem';
import { startThread } from '../base/built';
import type { Connection } from '../db/pool';
import type { CostBook } from './cost-book';
import type { CostThread, FileResult } from './cost.worker';

type FileCalls = {
  readonly [Name in keyof CostThread['files']]: (
    ...args: Parameters<CostThread['files'][Name]>
  ) => Promise<Extract<Awaited<ReturnType<CostThread['files'][Name]>>, { done: unknown }>['done']>;
};

/** Costs, reached across their thread's border. */
export interface CostClient {
  /** Calls the book; the thread is started when it is first needed, and again after it ended by itself. */
  book<Result>(call: (book: Comlink.Remote<CostBook>) => Promise<Result>): Promise<Result>;
  /** What reads files. @throws Refusal for what is no such file */
  readonly files: FileCalls;
  close(): Promise<void>;
}

interface Running {
  readonly worker: Worker;
  readonly book: Comlink.Remote<CostBook>;
  readonly files: Comlink.RemoteObject<CostThread['files']>;
  readonly ended: Promise<never>;
}

/**
 * Costs in a thread of their own, which is started when it is first needed.
 *
 * @example const costs = openCosts(connection); await costs.book((book) => book.reports([question], rates))
 */
export function openCosts(connection: Connection): CostClient {
  let running: Running | null = null;
  const start = (): Running => {
    const worker = startThread('cost/cost.worker.ts', connection);
    let lost: Error | null = null;
    const ended = new Promise<never>((_resolve, reject) => {
      worker.once('error', (error) => (lost = error));
      worker.once('exit', (code) => {
        running = null;
        reject(lost ?? new Error(`The thread of the costs ended with code ${code}.`));
      });
    });
    ended.catch(() => undefined); // whoever waits has the failure
    const thread = Comlink.wrap<CostThread>(nodeEndpoint(worker));
    return {
      ...{ worker, ended, book: thread.book as unknown as Comlink.Remote<CostBook> },
      files: thread.files as unknown as Comlink.RemoteObject<CostThread['files']>
    };
  };
  const call = <Result>(of: (thread: Running) => Promise<Result>): Promise<Result> => {
    running ??= start();
    return Promise.race([of(running), running.ended]);
  };
  const file = <Result>(of: (thread: Running) => Promise<FileResult<Result>>): Promise<Result> =>
    call(of).then((result) => {
      if ('done' in result) return result.done;
      throw new Refusal(result.refused.code, result.refused.message, result.refused.remedy);
    });
  return {
    book: (of) => call(({ book }) => of(book)),
    files: {
      put: (...args) => file(({ files }) => files.put(...args)),
      preview: (...args) => file(({ files }) => files.preview(...args)),
      import: (...args) => file(({ files }) => files.import(...args))
    },
    close: async () => {
      const last = running;
      if (last === null) return;
      await Promise.race([last.book.close(), last.ended]);
      await last.worker.terminate();
    }
  };
}
