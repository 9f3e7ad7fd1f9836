import type { Worker } from 'node:worker_threads';
import * as Comlink from 'comlink';
import nodeEndpoint from 'comlink/dist/esm/node-adapter.mjs';
import { refusalOf } from '$lib/core/problem/problem';
import { startThread } from '../base/built';
import type { Connection } from '../db/pool';
import type { CostBook } from './cost-book';
import type { BillResult, CostThread } from './cost.worker';

type Calls = CostThread['bills'];
type BillCalls = {
  readonly [Name in keyof Calls]: (
    ...args: Parameters<Calls[Name]>
  ) => Promise<Extract<Awaited<ReturnType<Calls[Name]>>, { done: unknown }>['done']>;
};

/** Costs, reached across their thread's border. */
export interface CostClient {
  /** Asks what things cost. */
  book<Result>(call: (book: Comlink.Remote<CostBook>) => Promise<Result>): Promise<Result>;
  /** What takes bills. @throws Refusal `unreadable`, `too-large` */
  readonly bills: BillCalls;
  close(): Promise<void>;
}

interface Running {
  readonly worker: Worker;
  readonly thread: Comlink.Remote<CostThread>;
  readonly book: Comlink.Remote<CostBook>;
  readonly bills: Comlink.RemoteObject<Calls>;
  /** Rejects when the thread has ended. */
  readonly ended: Promise<never>;
}

/**
 * Costs in a thread of their own, which is started when it is first needed, and again after it ended by itself.
 *
 * @example const costs = openCosts(connection); await costs.book((book) => book.reports([query], rates))
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
      ...{ worker, ended, thread, book: thread.book as unknown as Comlink.Remote<CostBook> },
      bills: thread.bills as unknown as Comlink.RemoteObject<Calls>
    };
  };
  const call = <Result>(of: (thread: Running) => Promise<Result>): Promise<Result> => {
    running ??= start();
    return Promise.race([of(running), running.ended]);
  };
  const taken = async <Result>(of: (thread: Running) => Promise<BillResult<Result>>): Promise<Result> => {
    const result = await call(of);
    if ('done' in result) return result.done;
    throw refusalOf(result.refused);
  };
  return {
    book: (of) => call(({ book }) => of(book)),
    bills: {
      put: (...args) => taken(({ bills }) => bills.put(...args)),
      putFile: (...args) => taken(({ bills }) => bills.putFile(...args)),
      preview: (...args) => taken(({ bills }) => bills.preview(...args)),
      import: (...args) => taken(({ bills }) => bills.import(...args))
    },
    close: async () => {
      const last = running;
      if (last === null) return;
      await Promise.race([last.thread.close(), last.ended]);
      await last.worker.terminate();
    }
  };
}
