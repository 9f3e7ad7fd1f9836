import { existsSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import type { FaultMode } from './fault-modes';
import type { ActMode, StandInAct } from './act-kinds';
import type { Stress } from './stress';

/** Acts that are remembered. */
const mostActs = 2000;

interface Kept {
  readonly start: number;
  readonly stresses: Stress[];
  /** Resources whose guest-level metrics were switched on. */
  readonly guests: string[];
  /** What was done with resources, in order. */
  readonly acts?: StandInAct[];
}

/**
 * What people and tests did to one provider; kept in a file, when one is named, so that the past stays the same after a restart. The start, from which the
 * planted troubles count, is the moment the state was first made.
 */
export class ProviderState {
  #kept: Kept;
  faultMode: FaultMode = 'usual';
  actMode: ActMode = 'usual';
  /** Orders that came again under a key that was known. */
  repeatedActs = 0;
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

  get acts(): readonly StandInAct[] {
    return this.#kept.acts ?? [];
  }

  /** Remembers that something was done, or is being done. */
  note(act: StandInAct): void {
    this.#kept = { ...this.#kept, acts: [...this.acts, act].slice(-mostActs) };
    this.#keep();
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

  /** Ends, at a moment, whatever still stresses a resource, or some of it. */
  relieve(resource: string, now: number, which: (stress: Stress) => boolean = () => true): void {
    const stresses = this.#kept.stresses.map((s) =>
      s.resource === resource && s.until > now && which(s) ? { ...s, until: now } : s
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
