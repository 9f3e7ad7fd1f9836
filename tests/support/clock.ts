import { renameSync, writeFileSync } from 'node:fs';
import { instantFromText, type Instant } from '../../src/lib/core/time';

/** The clock that a test holds in its hand: Bussola and the stand-ins read it from a file. */
export class TestClock {
  #now: number;
  readonly file: string;

  constructor(file: string, now = '2026-05-04T14:00:00Z') {
    this.file = file;
    this.#now = instantFromText(now);
    this.#write();
  }

  now(): Instant {
    return this.#now as Instant;
  }

  /** Lets time pass, in minutes; negative sets it back. */
  pass(minutes: number): void {
    this.#now += Math.round(minutes * 60_000);
    this.#write();
  }

  /** Renamed into place, so that nobody reads half a number. */
  #write(): void {
    writeFileSync(`${this.file}.new`, String(this.#now));
    renameSync(`${this.file}.new`, this.file);
  }
}
