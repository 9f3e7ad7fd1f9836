import { once } from 'node:events';
import { join } from 'node:path';
import { startThread } from '../built';
import { socketName, type DataFolder } from './folder';
import { makeDatabase } from './make-database';

/** A running embedded database. */
export interface EmbeddedDatabase {
  /** Where clients connect; the socket lies in the folder `host`. */
  readonly connection: { readonly host: string; readonly user: string; readonly database: string };
  /** Called once when the database's thread ends without having been asked to. */
  onLoss(listener: (error: Error) => void): void;
  close(): Promise<void>;
}

/**
 * Starts PGlite in a worker thread behind a Unix socket in the data folder.
 *
 * @throws when PGlite cannot open the folder
 * @example const embedded = await startEmbedded(openFolder('bussola-data', 1))
 */
export async function startEmbedded(folder: DataFolder): Promise<EmbeddedDatabase> {
  await makeDatabase(folder.database);
  const worker = startThread('db/embedded.worker.ts', {
    database: folder.database,
    socket: join(folder.socket, socketName)
  });
  await once(worker, 'message'); // rejects with the worker's error when it fails to start
  let closing = false;
  return {
    connection: { host: folder.socket, user: 'postgres', database: 'postgres' },
    onLoss: (listener) => {
      let lost: Error | null = null;
      worker.once('error', (error) => (lost = error));
      worker.once('exit', (code) => {
        if (!closing) listener(lost ?? new Error(`The embedded database ended with code ${code}.`));
      });
    },
    close: async () => {
      closing = true;
      worker.postMessage('close');
      await once(worker, 'message');
      await worker.terminate();
    }
  };
}
