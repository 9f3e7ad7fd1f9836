import { createHash } from 'node:crypto';

/**
 * Which of some engines is to do something: the same whoever asks, about as much for each of them, and when one comes or goes, only what it takes or leaves changes hands (highest random weight,
 * Thaler and Ravishankar 1998).
 *
 * @param engines ids of those that live
 * @returns its id; null where there is none
 * @example engineFor('account 3', ['a', 'b']) // 'b', whatever their order
 */
export function engineFor(name: string, engines: readonly string[]): string | null {
  let chosen: string | null = null;
  let most = '';
  for (const engine of engines) {
    const weight = createHash('sha256').update(`${engine}\n${name}`).digest('hex');
    if (weight > most) [chosen, most] = [engine, weight];
  }
  return chosen;
}
