import { callApi, answerOrNull } from '../api';
import type { SignalPick } from '$lib/core/signal';

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

  async ask({ metric, where }: SignalPick): Promise<void> {
    const body = { metric, where };
    const key = JSON.stringify(body);
    if (key === this.#asked) return;
    this.#asked = key;
    this.#asking?.abort();
    const asking = (this.#asking = new AbortController());
    const reply = await callApi<MatchedPick>('POST', '/picks', { body, signal: asking.signal });
    this.known = answerOrNull(reply) ?? this.known; // the preview beside it says what is wrong
  }
}
