// The store in a thread of its own: reading the journal, keeping the head and aligning series never stop the web server.
import { parentPort, workerData } from 'node:worker_threads';
import * as Comlink from 'comlink';
import nodeEndpoint from 'comlink/dist/esm/node-adapter.mjs';
import type { Connection } from '../db/pool';
import { SampleStore } from '../store/sample-store';

if (parentPort === null) throw new Error('store.worker runs in a worker thread only');
Comlink.expose(new SampleStore(workerData as Connection), nodeEndpoint(parentPort));
