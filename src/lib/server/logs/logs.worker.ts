// Lines in a thread of their own, apart from that of the samples: a search never holds up what judges alarms.
import { parentPort, workerData } from 'node:worker_threads';
import * as Comlink from 'comlink';
import nodeEndpoint from 'comlink/dist/esm/node-adapter.mjs';
import { openPool, type Connection } from '../db/pool';
import { LogStore } from './log-store';

if (parentPort === null) throw new Error('logs.worker runs in a worker thread only');
Comlink.expose({ logs: new LogStore(openPool(workerData as Connection, 2)) }, nodeEndpoint(parentPort));
