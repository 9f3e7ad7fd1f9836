import type { QueryAnswer } from '$lib/core/series';
import type { Signal } from '$lib/core/signal';
import { textFromInstant, type Range } from '$lib/core/time';

/** What a panel knows: the newest answer, the range it was asked for, and why there is none. */
export class PanelData {
  answer = $state.raw<QueryAnswer | null>(null);
  range = $state.raw<Range | null>(null);
  problem = $state<string | null>(null);
  #asking: AbortController | null = null;

  /** Asks for a signal; an answer still under way is given up. What was drawn stays until the new answer is there. */
  async ask(signal: Signal, range: Range, cells: number): Promise<void> {
    this.#asking?.abort();
    const asking = (this.#asking = new AbortController());
    try {
      const response = await fetch('/api/v1/query', {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ signal, from: textFromInstant(range.from), to: textFromInstant(range.to), cells }),
        signal: asking.signal
      });
      const body = (await response.json()) as QueryAnswer & { message?: string; remedy?: string };
      if (asking.signal.aborted) return;
      if (!response.ok) {
        this.problem = [body.message, body.remedy].filter(Boolean).join(' ');
        return;
      }
      this.answer = body;
      this.range = range;
      this.problem = null;
    } catch (error) {
      if (asking.signal.aborted) return;
      this.problem = 'Bussola was not reached. It tries again when the connection is back.';
      if (!(error instanceof TypeError)) throw error;
    }
  }

  /** Gives up what is under way. */
  stop(): void {
    this.#asking?.abort();
  }
}
