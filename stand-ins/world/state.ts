import { existsSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import type { FaultMode } from './fault-modes';
import type { Stress } from './stress';

interface Kept {
  readonly start: number;
  readonly stresses: Stress[];
  /** Resources whose guest-level metrics were switched on. */
  readonly guests: string[];
}

/**
 * What people and tests did to one provider; kept in a file, when one is named, so that the past stays the same after a restart. The start, from which the
 * planted troubles count, is the moment the state was first made.
 */
export class ProviderState {
  #kept: Kept;
  faultMode: FaultMode = 'usual';
  readonly #file: string | undefined;

  /** @param start milliseconds since the epoch */
  constructor(start: number, file?: string) {
    this.#file = file;
    this.#kept = { start, stresses: [], guests: [] };
    if (file !== undefined && existsSync(file)) this.#kept = JSON.parse(readFileSync(file, 'utf8')) as Kept;
    else this.#keep();
  }

  get start(): number {
    return this.#kept.start;
  }

  get stresses(): readonly Stress[] {
    return this.#kept.stresses;
  }

  hasGuest(resource: string): boolean {
    return this.#kept.guests.includes(resource);
  }

  enableGuest(resource: string): void {
    if (this.hasGuest(resource)) return;
    this.#kept = { ...this.#kept, guests: [...this.#kept.guests, resource] };
    this.#keep();
  }

  stress(added: Stress): void {
    this.#kept = { ...this.#kept, stresses: [...this.#kept.stresses, added] };
    this.#keep();
  }

  /** Ends, at a moment, whatever still stresses a resource. */
  relieve(resource: string, now: number): void {
    const stresses = this.#kept.stresses.map((s) =>
      s.resource === resource && s.until > now ? { ...s, until: now } : s
    );
    this.#kept = { ...this.#kept, stresses };
    this.#keep();
  }

  #keep(): void {
    if (this.#file === undefined) return;
    writeFileSync(`${this.#file}.new`, JSON.stringify(this.#kept));
    renameSync(`${this.#file}.new`, this.#file);
  }
}
