// Costs in a thread of their own: files of bills are read, and months added up, beside everything else.
import { parentPort, workerData } from 'node:worker_threads';
import * as Comlink from 'comlink';
import nodeEndpoint from 'comlink/dist/esm/node-adapter.mjs';
import { problemOf, Refusal, type Problem } from '$lib/core/problem/problem';
import { openPool, type Connection } from '../db/pool';
import { CostBook } from './cost-book';

if (parentPort === null) throw new Error('cost.worker runs in a worker thread only');
const book = new CostBook(openPool(workerData as Connection, 1));

/** What comes of reading a file: a refusal is data, since errors lose what they are on their way to another thread. */
export type FileResult<Result> = { readonly done: Result } | { readonly refused: Problem };

const asData = async <Result>(work: Promise<Result>): Promise<FileResult<Result>> => {
  try {
    return { done: await work };
  } catch (error) {
    if (error instanceof Refusal) return { refused: problemOf(error) };
    throw error;
  }
};

const files = {
  put: (...args: Parameters<CostBook['putFile']>) => asData(book.putFile(...args)),
  preview: (...args: Parameters<CostBook['preview']>) => asData(book.preview(...args)),
  import: (...args: Parameters<CostBook['importFile']>) => asData(book.importFile(...args))
};
export type CostThread = { readonly book: CostBook; readonly files: typeof files };
Comlink.expose({ book, files } satisfies CostThread, nodeEndpoint(parentPort));
