import { fileURLToPath, pathToFileURL } from 'node:url';
import { Worker } from 'node:worker_threads';

/**
 * Where a file that is not bundled lies: beside the sources while these run, in `build/workers` once built.
 *
 * @param source path below `src/lib/server`, such as `store/store.worker.ts`
 * @example unbundled('store/store.worker.ts') // '…/build/workers/store.worker.js'
 */
export function unbundled(source: string): string {
  const here = import.meta.url;
  const built = here.lastIndexOf('/build/');
  if (built === -1) return fileURLToPath(new URL(source, here));
  const name = (source.split('/').pop() ?? source).replace(/\.ts$/, '.js');
  return fileURLToPath(`${here.slice(0, built)}/build/workers/${name}`);
}

/**
 * Starts a worker thread: the built entry, or the TypeScript source with tsx registered in the thread first.
 *
 * @example startThread('store/store.worker.ts', connection)
 */
export function startThread(source: string, workerData: unknown): Worker {
  const path = unbundled(source);
  if (!path.endsWith('.ts')) return new Worker(path, { workerData });
  // Found from the working directory, the project's folder: sources run in development and tests only.
  const entry = `import('tsx/esm/api').then(({ register }) => { register(); return import(${JSON.stringify(pathToFileURL(path).href)}); })`;
  return new Worker(entry, { eval: true, workerData });
}
