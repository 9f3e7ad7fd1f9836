import { existsSync } from 'node:fs';
import { fileURLToPath, pathToFileURL } from 'node:url';
import { Worker } from 'node:worker_threads';

/**
 * Where a file that is not bundled lies: beside the sources while these run, in `build/workers` once built.
 *
 * @param source path below `src/lib/server`, such as `query/query.worker.ts`
 * @example unbundled('query/query.worker.ts') // '…/build/workers/query.worker.js'
 */
export function unbundled(source: string): string {
  const here = import.meta.url;
  const built = here.lastIndexOf('/build/');
  if (built === -1) return fileURLToPath(new URL(`../${source}`, here));
  return fileURLToPath(`${here.slice(0, built)}/build/workers/${nameOf(source)}`);
}

const nameOf = (source: string): string => (source.split('/').pop() ?? source).replace(/\.ts$/, '.js');

/** The built entry of a thread though the sources run, where tests of sources that were just built want that: to translate each thread first takes most of their time. Null for none. */
function builtThread(source: string): string | null {
  if (process.env['BUSSOLA_TEST_THREADS'] !== 'built') return null;
  const path = fileURLToPath(new URL(`../../../../build/workers/${nameOf(source)}`, import.meta.url));
  return existsSync(path) ? path : null; // some threads are of tests only
}

/** Where an empty database lies that new data folders are copied from: in the build, or where the scripts made one. It need not be there. */
export function emptyDatabase(): string {
  const here = import.meta.url;
  const built = here.lastIndexOf('/build/');
  return built === -1
    ? 'node_modules/.cache/bussola/empty-database' // from the working directory, the project's folder
    : fileURLToPath(`${here.slice(0, built)}/build/empty-database`);
}

/** A thread's short-lived objects are mostly views of columns: with less room for them, columns that nobody needs any more are given back sooner. */
const resourceLimits = { maxYoungGenerationSizeMb: 8 };

/**
 * Starts a worker thread: the built entry, or the TypeScript source with tsx registered in the thread first.
 *
 * @example startThread('query/query.worker.ts', connection)
 */
export function startThread(source: string, workerData: unknown): Worker {
  const found = unbundled(source);
  const path = found.endsWith('.ts') ? (builtThread(source) ?? found) : found;
  if (!path.endsWith('.ts')) return new Worker(path, { workerData, resourceLimits });
  // Found from the working directory, the project's folder: sources run in development and tests only.
  const entry = `import('tsx/esm/api').then(({ register }) => { register(); return import(${JSON.stringify(pathToFileURL(path).href)}); })`;
  return new Worker(entry, { eval: true, workerData, resourceLimits });
}
