// Samples and the evaluation of signals over them, in a thread of their own: neither ever stops the web server.
import { parentPort, workerData } from 'node:worker_threads';
import * as Comlink from 'comlink';
import nodeEndpoint from 'comlink/dist/esm/node-adapter.mjs';
import { openPool, type Connection } from '../db/pool';
import { SampleStore } from '../store/sample-store';
import { Evaluator } from './evaluator';

if (parentPort === null) throw new Error('query.worker runs in a worker thread only');
const db = openPool(workerData as Connection, 3);
const samples = new SampleStore(db);
Comlink.expose({ samples, evaluator: new Evaluator(db, samples) }, nodeEndpoint(parentPort));
