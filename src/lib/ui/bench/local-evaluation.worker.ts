import { type Problem } from '$lib/core/problem/problem';
// Formulas, limits and units over what the browser has already, in a thread of their own so that typing never waits for them.
import * as Comlink from 'comlink';
import type { QueryAnswer } from '$lib/core/series';
import { type Signal } from '$lib/core/signal';
import { answerFromCache, cachedPicksOf, type CachedPicks } from '$lib/core/signal/cached-picks';

let cached: CachedPicks | null = null;

const here = {
  /** Caches the picks of a signal as they were answered; what was cached before is dropped. */
  hold(signal: Signal, answer: QueryAnswer): void {
    cached = cachedPicksOf(signal, answer);
  },
  /** A signal computed from the picks that are cached; null when it needs more. */
  answer(signal: Signal): QueryAnswer | Problem | null {
    if (cached === null) return null;
    const began = performance.now();
    const answer = answerFromCache(signal, cached);
    return answer && 'series' in answer
      ? { ...answer, effort: { ...answer.effort, milliseconds: performance.now() - began } }
      : answer;
  }
};
export type Here = typeof here;

Comlink.expose(here);
