import { Refusal } from '$lib/core/problem/problem';
import {
  accessSync,
  chmodSync,
  constants,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readFileSync,
  writeFileSync
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { fullDisk, isFullDisk, refuseFullDisk } from '../base/disk';
import { lockFolder } from './lock';

/** A data folder, taken for this process. */
export interface DataFolder {
  readonly path: string;
  /** Where PGlite keeps its files. */
  readonly database: string;
  /** Folder of the Unix socket: inside the data folder unless its path is too long for one. */
  readonly socket: string;
  /** Writes down that the folder is of this version. */
  markVersion(): void;
  release(): void;
}

/**
 * Opens a data folder: makes it with mode 0700 when it is not there, refuses one that cannot be written, is of a newer version, or is in use.
 * A folder that is refused is not touched.
 *
 * @param version the highest migration this program knows
 * @throws Refusal
 * @example openFolder('bussola-data', 1).database // '…/bussola-data/database'
 */
export function openFolder(path: string, version: number): DataFolder {
  const folder = resolve(path);
  const versionFile = join(folder, 'version');
  refuseNewer(versionFile, folder, version);
  try {
    mkdirSync(folder, { recursive: true, mode: 0o700 });
    accessSync(folder, constants.W_OK);
    chmodSync(folder, 0o700);
  } catch (error) {
    if (isFullDisk(error)) throw fullDisk(folder, 'has no room', error);
    throw new Refusal(
      'data-folder',
      `The data folder ${folder} cannot be written: ${(error as NodeJS.ErrnoException).code ?? String(error)}.`,
      'Give this user the right to write there, or name another folder in BUSSOLA_DATA.',
      { cause: error }
    );
  }
  refuseFullDisk(folder, !existsSync(join(folder, 'database')));
  const release = lockFolder(folder);
  return { ...folderAt(folder), markVersion: () => writeFileSync(versionFile, `${version}\n`), release };
}

/** Where things lie in a folder; it is not taken. */
export function folderAt(path: string): Omit<DataFolder, 'markVersion' | 'release'> {
  const folder = resolve(path);
  return { path: folder, database: join(folder, 'database'), socket: socketFolder(folder) };
}

function refuseNewer(versionFile: string, folder: string, version: number): void {
  if (!existsSync(versionFile)) return;
  const found = Number(readFileSync(versionFile, 'utf8'));
  if (!(found <= version))
    throw new Refusal(
      'newer-data',
      `The data folder ${folder} was written by a newer Bussola (its version is ${found}, this program knows ${version}).`,
      'Start the newer Bussola on it, or name another folder in BUSSOLA_DATA. Nothing in it was changed.'
    );
}

/** A Unix socket's path may have about 100 bytes. */
function socketFolder(folder: string): string {
  if (Buffer.byteLength(join(folder, socketName)) <= 100) return folder;
  return mkdtempSync(join(tmpdir(), 'bussola-'));
}

/** The name that PostgreSQL's clients expect for port 5432. */
export const socketName = '.s.PGSQL.5432';
