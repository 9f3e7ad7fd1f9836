// Costs in a thread of their own: files of bills are read, and months added up, beside everything else.
import { parentPort, workerData } from 'node:worker_threads';
import * as Comlink from 'comlink';
import nodeEndpoint from 'comlink/dist/esm/node-adapter.mjs';
import { AmountTooLarge } from '$lib/core/cost';
import { problemOf, Refusal, type Problem } from '$lib/core/problem/problem';
import { openPool, type Connection } from '../db/pool';
import { BillFiles } from './bill-files';
import { BillWriter } from './bill-writer';
import { CostBook } from './cost-book';

if (parentPort === null) throw new Error('cost.worker runs in a worker thread only');
// Two connections: a month is added up while a bill is stored.
const db = openPool(workerData as Connection, 2);
const writer = new BillWriter(db);
const reader = new BillFiles(writer);

/** What comes of taking a bill: a refusal is data, since errors lose what they are on their way to another thread. */
export type BillResult<Result> = { readonly done: Result } | { readonly refused: Problem };

async function asData<Result>(work: Promise<Result>): Promise<BillResult<Result>> {
  try {
    return { done: await work };
  } catch (error) {
    if (error instanceof Refusal) return { refused: problemOf(error) };
    if (error instanceof AmountTooLarge) return { refused: tooMuch };
    throw error;
  }
}

const tooMuch: Problem = {
  code: 'unreadable',
  message: 'Amounts of the bill add up to more than four billion.',
  remedy: 'Check its amounts: a decimal point may be missing.'
};

const bills = {
  put: (...args: Parameters<BillWriter['put']>) => asData(writer.put(...args)),
  putFile: (...args: Parameters<BillFiles['put']>) => asData(reader.put(...args)),
  preview: (...args: Parameters<BillFiles['preview']>) => asData(reader.preview(...args)),
  import: (...args: Parameters<BillFiles['import']>) => asData(reader.import(...args))
};
const thread = { book: new CostBook(db), bills, close: () => db.close() };
export type CostThread = typeof thread;
Comlink.expose(thread, nodeEndpoint(parentPort));
