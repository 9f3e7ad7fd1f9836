import { Refusal } from '$lib/core/problem/problem';
import { linkSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';

interface Holder {
  readonly pid: number;
  /** When that process started, in the kernel's ticks; empty where the system does not tell. A reused pid has another. */
  readonly started: string;
}

/**
 * Takes a data folder for this process alone: PGlite would let a second process in and both would write.
 * A lock whose process is gone, also after `kill -9` or a restart of the machine, is taken over.
 *
 * @returns what gives the folder back
 * @throws Refusal while another process holds it
 * @example const release = lockFolder('bussola-data')
 */
export function lockFolder(folder: string): () => void {
  const lock = join(folder, 'lock');
  const mine = join(folder, `lock.${process.pid}`);
  const text = JSON.stringify({ pid: process.pid, started: startOf(process.pid) } satisfies Holder);
  writeFileSync(mine, text);
  try {
    for (;;) {
      try {
        linkSync(mine, lock); // atomic: fails when the lock is there
        return () => {
          if (readIfThere(lock) === text) rmSync(lock);
        };
      } catch (error) {
        if ((error as NodeJS.ErrnoException).code !== 'EEXIST') throw error;
      }
      removeIfStale(lock, folder);
    }
  } finally {
    rmSync(mine, { force: true });
  }
}

function removeIfStale(lock: string, folder: string): void {
  const content = readIfThere(lock);
  if (content === null) return;
  const holder = parseHolder(content);
  if (holder && isAlive(holder))
    throw new Refusal(
      'data-folder',
      `The data folder ${folder} is in use by another Bussola (process ${holder.pid}).`,
      'Stop that one first, or start this one with another folder in BUSSOLA_DATA.'
    );
  const aside = `${lock}.stale.${process.pid}`;
  renameSync(lock, aside);
  // Another process may have replaced the stale lock between our reading and our renaming: then put its lock back.
  if (readIfThere(aside) !== content) linkSync(aside, lock);
  rmSync(aside);
}

function parseHolder(text: string): Holder | null {
  try {
    const { pid, started } = JSON.parse(text) as Partial<Holder>;
    return typeof pid === 'number' && typeof started === 'string' ? { pid, started } : null;
  } catch (error) {
    if (error instanceof SyntaxError) return null; // cut short by a crash: nobody's
    throw error;
  }
}

function isAlive({ pid, started }: Holder): boolean {
  try {
    process.kill(pid, 0);
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === 'ESRCH') return false;
    if ((error as NodeJS.ErrnoException).code !== 'EPERM') throw error;
  }
  return startOf(pid) === started;
}

/** Field 22 of /proc/PID/stat; the name in field 2 may hold blanks, so counting starts behind its bracket. */
function startOf(pid: number): string {
  const stat = readIfThere(`/proc/${pid}/stat`);
  return stat === null ? '' : (stat.slice(stat.lastIndexOf(')') + 2).split(' ')[19] ?? '');
}

function readIfThere(path: string): string | null {
  try {
    return readFileSync(path, 'utf8');
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === 'ENOENT') return null;
    throw error;
  }
}
