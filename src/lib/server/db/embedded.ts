import { Refusal } from '$lib/core/problem/problem';
import { once } from 'node:events';
import { join } from 'node:path';
import { startThread } from '../base/built';
import { socketName, type DataFolder } from './folder';
import { makeDatabase } from './make-database';

/** A running embedded database. */
export interface EmbeddedDatabase {
  /** Where clients connect; the socket lies in the folder `host`. */
  readonly connection: { readonly host: string; readonly user: string; readonly database: string };
  /** Called once when the database stops itself, or its thread ends without having been asked to. */
  onLoss(listener: (error: Error) => void): void;
  close(): Promise<void>;
}

/**
 * Starts PGlite in a worker thread behind a Unix socket in the data folder.
 *
 * @throws when PGlite cannot open the folder
 * @example const embedded = await startEmbedded(openFolder('bussola-data', 1))
 */
export async function startEmbedded(
  folder: Pick<DataFolder, 'path' | 'database' | 'socket'>
): Promise<EmbeddedDatabase> {
  await makeDatabase(folder.database);
  const worker = startThread('db/embedded.worker.ts', {
    database: folder.database,
    socket: join(folder.socket, socketName)
  });
  await once(worker, 'message'); // rejects with the worker's error when it fails to start
  let closing = false;
  let panic: Refusal | null = null;
  worker.on('message', (said: unknown) => {
    if (typeof said === 'object' && said !== null && 'panic' in said)
      panic = new Refusal(
        'database-stopped',
        `The database has stopped itself: ${String(said.panic)}.`,
        `Make room on the disk of ${folder.path} or repair it, then start Bussola again. What it acknowledged is there.`
      );
  });
  return {
    connection: { host: folder.socket, user: 'postgres', database: 'postgres' },
    onLoss: (listener) => {
      let lost: Error | null = null;
      worker.on('message', () => panic !== null && !closing && listener(panic));
      worker.once('error', (error) => (lost = error));
      worker.once('exit', (code) => {
        if (!closing) listener(lost ?? new Error(`The embedded database ended with code ${code}.`));
      });
    },
    close: async () => {
      closing = true;
      // One that has stopped itself cannot be closed; it recovers from its log at the next start.
      if (panic === null) {
        worker.postMessage('close');
        while ((await once(worker, 'message'))[0] !== 'closed');
      }
      await worker.terminate();
    }
  };
}
