import type { Logger } from 'pino';
import type { Instant } from '$lib/core/time';
import type { Queryable } from '../../db/pool';
import { bytesOn, dayOf, noteUses, type Key, type KeyUse } from './keys';

/** How long uses are gathered before they are written together, ms of real time. */
const gatheredFor = 1_000;

/**
 * Counts what keys send against what they may send a day. The count is exact in this process, also between requests that come at once; in the database it follows a
 * second later, so that a program that pushes often costs no statement for each request. A process that is killed forgets that second.
 *
 * @example if (!uses.take(key, body.length, clock.now())) throw new NotTaken(429, …);
 */
export class KeyUses {
  readonly #db: Queryable;
  readonly #log: Pick<Logger, 'error'>;
  /** Bytes of each key on the day it was last used. */
  readonly #counted = new Map<number, { day: number; bytes: number }>();
  #unwritten = new Map<number, KeyUse>();
  #timer: NodeJS.Timeout | null = null;

  constructor(db: Queryable, log: Pick<Logger, 'error'>) {
    this.#db = db;
    this.#log = log;
  }

  /** Counts bytes of a key. @returns false when they are beyond what it may send on that day; they do not count then */
  take(key: Key, bytes: number, now: Instant): boolean {
    const day = dayOf(now);
    const counted = this.#counted.get(key.id);
    const sum = Math.max(bytesOn(key, now), counted?.day === day ? counted.bytes : 0) + bytes;
    if (sum > key.mostBytesADay) return false;
    this.#counted.set(key.id, { day, bytes: sum });
    this.#gather({ id: key.id, bytes, at: now });
    this.#timer ??= setTimeout(() => {
      this.write().catch((error: unknown) => this.#log.error({ err: error }, 'what keys sent could not be noted'));
    }, gatheredFor).unref();
    return true;
  }

  #gather(use: KeyUse): void {
    const known = this.#unwritten.get(use.id);
    const isSameDay = known !== undefined && dayOf(known.at) === dayOf(use.at);
    this.#unwritten.set(use.id, isSameDay ? { ...use, bytes: known.bytes + use.bytes } : use);
  }

  /** Writes what was gathered, and resolves when it stands. What cannot be written stays for the next time. */
  async write(): Promise<void> {
    if (this.#timer !== null) clearTimeout(this.#timer);
    this.#timer = null;
    const uses = [...this.#unwritten.values()];
    if (uses.length === 0) return;
    this.#unwritten = new Map();
    try {
      await noteUses(this.#db, uses);
    } catch (error) {
      const later = [...this.#unwritten.values()];
      this.#unwritten = new Map();
      for (const use of [...uses, ...later]) this.#gather(use);
      throw error;
    }
  }
}
