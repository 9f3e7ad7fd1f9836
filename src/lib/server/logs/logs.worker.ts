// Lines in a thread of their own, apart from that of the samples: a search never holds up what judges alarms.
import { parentPort, workerData, type MessagePort } from 'node:worker_threads';
import * as Comlink from 'comlink';
import nodeEndpoint from 'comlink/dist/esm/node-adapter.mjs';
import { openPool, type Connection } from '../db/pool';
import { LogStore } from './log-store';

if (parentPort === null) throw new Error('logs.worker runs in a worker thread only');
const logs = new LogStore(openPool(workerData as Connection, 2));
/** Counts lines for another thread, which asks through a port of its own. */
const serve = (port: MessagePort): void => {
  const counted: LogStore['counted'] = (query, patience) => logs.counted(query, patience);
  Comlink.expose({ counted }, nodeEndpoint(port));
};
Comlink.expose({ logs, serve }, nodeEndpoint(parentPort));
