import { spawnSync } from 'node:child_process';
import { appendFileSync, mkdtempSync, rmSync, statfsSync, statSync, truncateSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

/** A small file system of its own. */
export interface SmallDisk {
  readonly path: string;
  /** Fills it with a file until this many bytes are free, or gives room back. */
  leave(bytes: number): void;
  unmount(): void;
}

/** @returns null where file systems may not be mounted */
export function smallDisk(megabytes: number): SmallDisk | null {
  const path = mkdtempSync(join(tmpdir(), 'bussola-disk-'));
  const mounted = spawnSync('mount', ['-t', 'tmpfs', '-o', `size=${megabytes}m`, 'tmpfs', path]);
  if (mounted.status !== 0) {
    rmSync(path, { recursive: true });
    return null;
  }
  const filler = join(path, 'filler');
  return {
    path,
    leave: (bytes) => {
      const { bavail, bsize } = statfsSync(path);
      const over = bavail * bsize - bytes;
      if (over > 0) appendFileSync(filler, Buffer.alloc(over));
      else truncateSync(filler, Math.max(0, statSync(filler).size + over));
    },
    unmount: () => {
      spawnSync('umount', ['-l', path]);
      rmSync(path, { recursive: true, force: true });
    }
  };
}
