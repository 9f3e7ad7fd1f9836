import type { Problem } from '$lib/core/problem/problem';
import { callApi } from '../api';

/** How long typing has to rest before something is tried, ms. */
const pauseMs = 300;

/**
 * Tries what is being written, each time that it has changed and is complete.
 *
 * @example const trying = new Trying<Answer>('/budgets/try', () => (read.success ? JSON.stringify(read.data) : ''));
 */
export class Trying<Answer> {
  answer = $state.raw<Answer | null>(null);
  problem = $state.raw<Problem | null>(null);

  /** @param body what is tried, as JSON; empty while it is not complete */
  constructor(path: '/budgets/try' | '/objectives/try' | '/event-rules/try', body: () => string) {
    $effect(() => {
      const text = body();
      if (text === '') return;
      const cancelled = new AbortController();
      const timer = setTimeout(() => {
        void callApi<Answer>('POST', path, { body: JSON.parse(text) as object, signal: cancelled.signal }).then(
          (reply) => {
            if (reply.kind === 'answered') [this.answer, this.problem] = [reply.answer, null];
            if (reply.kind === 'refused') this.problem = reply.problem;
          }
        );
      }, pauseMs);
      return () => {
        clearTimeout(timer);
        cancelled.abort();
      };
    });
  }
}
