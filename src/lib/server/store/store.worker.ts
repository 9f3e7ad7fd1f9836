// The store alone in a thread of its own, for tests and benchmarks; the application has it beside the evaluator, in query.worker.
import { parentPort, workerData } from 'node:worker_threads';
import * as Comlink from 'comlink';
import nodeEndpoint from 'comlink/dist/esm/node-adapter.mjs';
import { openPool, type Connection } from '../db/pool';
import { SampleStore } from './sample-store';

if (parentPort === null) throw new Error('store.worker runs in a worker thread only');
Comlink.expose({ samples: new SampleStore(openPool(workerData as Connection, 3)) }, nodeEndpoint(parentPort));
