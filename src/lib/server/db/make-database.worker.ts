import { workerData } from 'node:worker_threads';
import { PGlite } from '@electric-sql/pglite';

const db = await PGlite.create(workerData as string);
await db.close();
