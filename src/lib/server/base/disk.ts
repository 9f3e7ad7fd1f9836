import { Refusal } from '$lib/core/problem/problem';
import { closeSync, fsyncSync, openSync, statfsSync } from 'node:fs';

/** How the disk of the data folder stands, bytes. */
export interface DiskState {
  readonly free: number;
  /** Below this, no samples are taken. */
  readonly least: number;
  readonly isLow: boolean;
}

/** Once low, it counts as low until this much more is free, so that it does not go back and forth. */
const returnsAt = 1.1;
/** Below this share of the least, sealing pauses too: it needs room before it gives any back. */
const sealsAbove = 0.5;
/** What a start needs: the log's next files, and a copy of the empty database where there is none yet. */
const [roomToStart, roomToBegin] = [48_000_000, 128_000_000];

/**
 * Watches the free space of the disk where the embedded database lies. When its log cannot grow any more the database stops itself, so taking samples stops
 * well before that and continues by itself once there is room.
 *
 * @param folder on the disk; null where the database is elsewhere, then nothing is ever low
 * @param least free bytes below which no samples are taken
 * @example const disk = new Disk('/var/lib/bussola', 256_000_000); disk.state() // { free: 81_000_000_000, least: 256_000_000, isLow: false }
 */
export class Disk {
  readonly #folder: string | null;
  readonly #least: number;
  readonly #freeBytes: (folder: string) => number;
  #isLow = false;

  constructor(folder: string | null, least: number, freeBytes = freeOn) {
    this.#folder = folder;
    this.#least = least;
    this.#freeBytes = freeBytes;
  }

  state(): DiskState | null {
    if (this.#folder === null) return null;
    const free = this.#freeBytes(this.#folder);
    this.#isLow = free < this.#least * (this.#isLow ? returnsAt : 1);
    return { free, least: this.#least, isLow: this.#isLow };
  }

  /** @throws Refusal when no samples are taken at present */
  refuseWhenLow(): void {
    const state = this.state();
    if (state === null || !state.isLow) return;
    throw new Refusal(
      'disk-low',
      `Bussola takes no samples: its disk has ${megabytes(state.free)} free, less than ${megabytes(state.least)}.`,
      'Make room on the disk of the data folder, or shorten retention on the Store page. Bussola continues by itself.'
    );
  }

  /** Whether there is room to rewrite what is stored. */
  maySeal(): boolean {
    const state = this.state();
    return state === null || state.free >= state.least * sealsAbove;
  }
}

/**
 * Refuses a start on a disk that is full, before anything is written.
 *
 * @param isNew whether the folder's database is still to be made
 * @throws Refusal
 */
export function refuseFullDisk(folder: string, isNew: boolean, freeBytes = freeOn): void {
  const need = isNew ? roomToBegin : roomToStart;
  const free = freeBytes(folder);
  if (free < need) throw fullDisk(folder, `has ${megabytes(free)} free; Bussola needs ${megabytes(need)} to start`);
}

/** A write that failed for want of room, in words. */
export const fullDisk = (folder: string, why: string, cause?: unknown): Refusal =>
  new Refusal(
    'data-folder',
    `The disk of the data folder ${folder} ${why}.`,
    'Make room there, or name a folder on another disk in BUSSOLA_DATA. Nothing that was stored is lost.',
    { cause }
  );

/** A batch that the database had no room for. */
export const noRoom = (cause: unknown): Refusal =>
  new Refusal(
    'disk-low',
    'Bussola could not store these samples: its disk is full.',
    'Make room on the disk of the data folder. Bussola continues by itself.',
    { cause }
  );

/** Whether an error says that a disk has no room: of this process, or of PostgreSQL (code 53100), of which only the words cross a thread's border. */
export const isFullDisk = (error: unknown): boolean =>
  error instanceof Error &&
  (['ENOSPC', 'EDQUOT', '53100'].includes((error as { code?: string }).code ?? '') ||
    error.message.includes('No space left on device'));

export const megabytes = (bytes: number): string => `${Math.floor(bytes / 1_000_000).toLocaleString('en')} MB`;

export function freeOn(folder: string): number {
  const { bavail, bsize } = statfsSync(folder);
  return bavail * bsize;
}

/** Waits until a file, or which names a folder has, is on the disk. */
export function syncToDisk(path: string): void {
  const opened = openSync(path, 'r');
  try {
    fsyncSync(opened);
  } finally {
    closeSync(opened);
  }
}
