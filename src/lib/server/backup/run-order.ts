import { fork } from 'node:child_process';
import { pathToFileURL } from 'node:url';
import type { Problem } from '$lib/core/problem/problem';
import { unbundled } from '../base/built';
import type { OnProgress } from './file/format';
import type { Order, Said } from './orders';
import type { BackupResult } from './records';

/** A process that has said nothing for so long hangs, ms: the longest step without a word is that of copying files. */
const quietMs = 3_600_000;

/** How something ended that a process of its own did. */
export type Outcome =
  | { readonly kind: 'done'; readonly result: BackupResult }
  | { readonly kind: 'failed'; readonly problem: Pick<Problem, 'code' | 'message' | 'remedy'> }
  | { readonly kind: 'stopped' };

/** Variables by which clients of PostgreSQL, and TLS, are set up, and where temporary files go. */
const isOfConnections = (name: string): boolean =>
  name.startsWith('PG') || name === 'NODE_EXTRA_CA_CERTS' || name === 'TMPDIR';

/** A process that carries out an order. */
export interface Running {
  readonly outcome: Promise<Outcome>;
  stop(): void;
}

/**
 * Starts a process that carries out an order.
 *
 * @example const { outcome } = runOrder({ kind: 'rehearsal', file, work, keyPlace }, ({ doing }) => console.log(doing))
 */
export function runOrder(order: Order, onProgress: OnProgress): Running {
  const entry = unbundled('backup/backup.process.ts');
  const isSource = entry.endsWith('.ts');
  const child = fork(entry, {
    // It is told what it needs over the channel; how servers are reached may also be said by variables.
    env: Object.fromEntries(Object.entries(process.env).filter(([name]) => isOfConnections(name))),
    execArgv: isSource ? ['--import', pathToFileURL('node_modules/tsx/dist/loader.mjs').href] : [],
    stdio: ['ignore', 'ignore', 'pipe', 'ipc']
  });
  let isStopped = false;
  let hangs = false;
  const hanging = setTimeout(() => {
    hangs = true;
    child.kill('SIGKILL');
  }, quietMs);
  let written = '';
  child.stderr?.on('data', (part: Buffer) => (written = `${written}${part.toString()}`.slice(-2000)));
  const outcome = new Promise<Outcome>((resolve) => {
    let ending: Outcome | null = null;
    child.on('message', (said: Said) => {
      hanging.refresh();
      if ('progress' in said) onProgress(said.progress);
      else if ('result' in said) ending = { kind: 'done', result: said.result };
      else ending = { kind: 'failed', problem: said.problem };
    });
    child.once('error', (error) => resolve(failed(error.message)));
    child.once('close', (code, signal) => {
      clearTimeout(hanging);
      if (hangs) ending = failed(`it did not go on for ${quietMs / 60_000} min.`);
      resolve(
        isStopped ? { kind: 'stopped' } : (ending ?? failed(`its process ended with ${signal ?? code}. ${written}`))
      );
    });
  });
  child.send(order);
  return {
    outcome,
    stop: () => {
      isStopped = true;
      child.kill('SIGKILL');
    }
  };
}

const failed = (why: string): Outcome => ({
  kind: 'failed',
  problem: { code: 'internal', message: `It failed: ${why.slice(-400)}`, remedy: 'Begin it again.' }
});
