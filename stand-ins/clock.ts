import { readFileSync } from 'node:fs';

/** Milliseconds since the epoch, as this stand-in believes. */
export type StandInClock = () => number;

/**
 * The machine's clock, or one that a file holds: its text is the present, in milliseconds since the epoch. A test shares that file with Bussola.
 *
 * @example standInClock('/tmp/clock')() // 1777881600000
 */
export function standInClock(file?: string): StandInClock {
  // eslint-disable-next-line no-restricted-syntax -- the one place where a stand-in reads the machine's clock
  if (file === undefined) return () => Date.now();
  return () => {
    const now = Number(readFileSync(file, 'utf8'));
    if (!Number.isFinite(now)) throw new Error(`standInClock: ${file} does not hold a number of milliseconds`);
    return now;
  };
}
