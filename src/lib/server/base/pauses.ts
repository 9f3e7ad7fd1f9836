import { setImmediate as turn } from 'node:timers/promises';
import { Refusal } from '$lib/core/problem/problem';

/** How long work goes on before others are served, ms of real time. */
const longestTurn = 10;

/**
 * For work in many small steps in a thread that serves others: called after each step, it lets them have their turn whenever this one was long enough.
 *
 * @param patience how long all of it may take, ms of real time
 * @returns what throws Refusal `too-much-at-once` once that is over
 * @example const pause = pauses(10_000); for (const one of many) { work(one); await pause(); }
 */
export function pauses(patience: number): () => Promise<void> {
  const end = performance.now() + patience;
  let begun = performance.now();
  return async () => {
    const now = performance.now();
    if (now > end)
      throw new Refusal('too-much-at-once', 'This takes too long.', 'Look for less, or use simpler patterns.');
    if (now - begun < longestTurn) return;
    await turn();
    begun = performance.now();
  };
}
