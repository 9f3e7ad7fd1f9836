// PGlite in a thread of its own, behind a Unix socket: a slow query never stops the web server.
import { existsSync, rmSync } from 'node:fs';
import { parentPort, workerData } from 'node:worker_threads';
import { PGlite } from '@electric-sql/pglite';
import { PGLiteSocketServer } from '@electric-sql/pglite-socket';

const { database, socket } = workerData as { database: string; socket: string };

if (existsSync(socket)) rmSync(socket); // left by a killed process; the folder's lock says nobody listens
const db = await PGlite.create(database);
const server = new PGLiteSocketServer({ db, path: socket, maxConnections: 64 });
await server.start();
parentPort?.postMessage('listening');

parentPort?.once('message', () => {
  void (async () => {
    await server.stop();
    await db.close();
    parentPort?.postMessage('closed');
  })();
});
