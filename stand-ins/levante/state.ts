import { existsSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import type { Mood } from './moods';
import type { Stress } from './numbers';

/** What people and tests did to Levante; kept in a file, when one is named, so that the past stays the same after a restart. */
export class LevanteState {
  #stresses: Stress[] = [];
  mood: Mood = 'usual';
  readonly #file: string | undefined;

  constructor(file?: string) {
    this.#file = file;
    if (file !== undefined && existsSync(file)) this.#stresses = JSON.parse(readFileSync(file, 'utf8')) as Stress[];
  }

  get stresses(): readonly Stress[] {
    return this.#stresses;
  }

  stress(added: Stress): void {
    this.#stresses.push(added);
    this.#keep();
  }

  /** Ends, at a moment, whatever still stresses a resource. */
  relieve(resource: string, now: number): void {
    this.#stresses = this.#stresses.map((s) => (s.resource === resource && s.until > now ? { ...s, until: now } : s));
    this.#keep();
  }

  #keep(): void {
    if (this.#file === undefined) return;
    writeFileSync(`${this.#file}.new`, JSON.stringify(this.#stresses));
    renameSync(`${this.#file}.new`, this.#file);
  }
}
