import type { Pick } from '$lib/core/signal';

/** What a pick selects and could choose from, as `POST /api/v1/picks` tells. */
export interface MatchedPick {
  readonly total: number;
  readonly matched: number;
  readonly left: readonly number[];
  readonly labels: readonly {
    readonly name: string;
    readonly values: readonly { readonly value: string; readonly count: number }[];
    readonly distinct: number;
  }[];
}

/** Keeps what is known of one pick up to date; what was known stays until the new is there. */
export class Matching {
  known = $state.raw<MatchedPick | null>(null);
  #asking: AbortController | null = null;
  #asked = '';

  async ask({ metric, where }: Pick): Promise<void> {
    const body = JSON.stringify({ metric, where });
    if (body === this.#asked) return;
    this.#asked = body;
    this.#asking?.abort();
    const asking = (this.#asking = new AbortController());
    try {
      const headers = { 'content-type': 'application/json' };
      const response = await fetch('/api/v1/picks', { method: 'POST', headers, body, signal: asking.signal });
      if (response.ok) this.known = (await response.json()) as MatchedPick;
    } catch (error) {
      if (asking.signal.aborted || error instanceof TypeError) return; // the preview beside it says that Bussola was not reached
      throw error;
    }
  }
}
