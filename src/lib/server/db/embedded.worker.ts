// PGlite in a thread of its own, behind a Unix socket: a slow query never stops the web server.
import { existsSync, rmSync } from 'node:fs';
import { createServer } from 'node:net';
import { setFlagsFromString } from 'node:v8';
import { parentPort, workerData } from 'node:worker_threads';
import { PGlite } from '@electric-sql/pglite';
import { PGLiteSocketHandler } from '@electric-sql/pglite-socket';
import { SyncedFiles, syncedParameters } from './synced-files';
import { Turns } from './turns';

const { database, socket } = workerData as { database: string; socket: string };

/**
 * How much of it a function of the database runs before it is compiled anew for speed: much more than usual. Its planner runs thousands of functions now and then, and the
 * compiler's threads took as long for them as all statements of the first minute; what really takes time is compiled all the same.
 */
setFlagsFromString('--wasm-tiering-budget=100000000');

/** What the database keeps of its pages; the system's own cache lies behind it, and the store keeps what it decoded. */
const pagesInMemory = '16MB';
/** How long the log may grow before a checkpoint shortens it: it takes part of the disk, and is read when a killed process starts again. */
const longestLog = '256MB';

if (existsSync(socket)) rmSync(socket); // left by a killed process; the folder's lock says nobody listens
const db = await PGlite.create({
  fs: new SyncedFiles(database),
  startParams: [
    ...PGlite.defaultStartParams.filter((flag) => flag !== '-F'),
    ...syncedParameters,
    '-c',
    `shared_buffers=${pagesInMemory}`,
    '-c',
    `max_wal_size=${longestLog}`
  ]
});
const queryQueue = new Turns(db, (message) => parentPort?.postMessage({ panic: message })) as never; // the package asks for its own class, and uses these methods of it
const handlers = new Set<PGLiteSocketHandler>();

const server = createServer((connection) => {
  const handler = new PGLiteSocketHandler({ queryQueue });
  handlers.add(handler);
  connection.once('close', () => handlers.delete(handler));
  handler.attach(connection).catch(() => connection.destroy());
});
server.listen(socket, () => parentPort?.postMessage('listening'));

parentPort?.once('message', () => {
  void (async () => {
    server.close();
    await Promise.all([...handlers].map((handler) => handler.detach(true)));
    await db.close();
    parentPort?.postMessage('closed');
  })();
});
