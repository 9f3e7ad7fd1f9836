import { fileURLToPath } from 'node:url';

/**
 * Where a worker's entry, or another file that is not bundled, lies: beside the sources while these run, in `build/workers` once built.
 *
 * @param source path below `src/lib/server`, such as `store/store.worker.ts`
 * @example unbundled('store/store.worker.ts') // { path: '…/build/workers/store.worker.js', execArgv: [] }
 */
export function unbundled(source: string): { path: string; execArgv: string[] } {
  const here = import.meta.url;
  const built = here.lastIndexOf('/build/');
  if (built === -1) return { path: fileURLToPath(new URL(source, here)), execArgv: ['--import', 'tsx'] };
  const name = (source.split('/').pop() ?? source).replace(/\.ts$/, '.js');
  return { path: fileURLToPath(`${here.slice(0, built)}/build/workers/${name}`), execArgv: [] };
}
