// Samples, the evaluation of signals over them and the judging of alarms, in a thread of their own: none of them ever stops the web server.
import { parentPort, workerData } from 'node:worker_threads';
import * as Comlink from 'comlink';
import nodeEndpoint from 'comlink/dist/esm/node-adapter.mjs';
import { openPool, type Connection } from '../db/pool';
import { Evaluator } from '../query/evaluator';
import { SampleStore } from '../store/sample-store';
import { Bands } from './bands';
import { Judging } from './judging';

if (parentPort === null) throw new Error('engine.worker runs in a worker thread only');
const db = openPool(workerData as Connection, 3);
const samples = new SampleStore(db);
const evaluator = new Evaluator(db, samples);
const judging = new Judging(db, evaluator, samples, new Bands(db).of);
Comlink.expose({ samples, evaluator, judging }, nodeEndpoint(parentPort));
