import type { AnswerFault, QueryAnswer } from '$lib/core/series';
import type { Signal } from '$lib/core/signal';
import { textFromInstant, type Range } from '$lib/core/time';

/** What a panel knows: the newest answer, the range it was asked for, and why there is none. */
export class PanelData {
  answer = $state.raw<QueryAnswer | null>(null);
  range = $state.raw<Range | null>(null);
  problem = $state<string | null>(null);
  /** Where in the signal the problem is, when it is there. */
  fault = $state.raw<AnswerFault | null>(null);
  #asking: AbortController | null = null;

  /** @param zone in which cells of days begin: the reader's */
  constructor(readonly zone = 'UTC') {}

  /** Asks for a signal; an answer still under way is given up. What was drawn stays until the new answer is there. */
  async ask(signal: Signal, range: Range, cells: number): Promise<void> {
    this.#asking?.abort();
    const asking = (this.#asking = new AbortController());
    const told = await post<QueryAnswer>(
      '/api/v1/query',
      { signal, ...spanOf(range), zone: this.zone, cells },
      asking.signal
    );
    if (told !== null && !asking.signal.aborted) this.take(told, range);
  }

  /** Takes an answer, or why there is none. */
  take(told: QueryAnswer | AnswerFault, range: Range): void {
    if ('series' in told) {
      this.answer = told;
      this.range = range;
      this.problem = null;
      this.fault = null;
      return;
    }
    this.problem = [told.message, told.remedy].filter(Boolean).join(' ');
    this.fault = told;
  }

  /** Gives up what is under way. */
  stop(): void {
    this.#asking?.abort();
  }
}

/** The panels of one board, asked for together so that the server reads what they share once. */
export class BoardData {
  #asking: AbortController | null = null;

  /** @param zone in which cells of days begin: the reader's */
  constructor(readonly zone = 'UTC') {}

  async ask(
    panels: readonly { readonly data: PanelData; readonly signal: Signal }[],
    range: Range,
    cells: number
  ): Promise<void> {
    this.#asking?.abort();
    if (panels.length === 0) return;
    const asking = (this.#asking = new AbortController());
    const signals = panels.map(({ signal }) => signal);
    const told = await post<(QueryAnswer | AnswerFault)[]>(
      '/api/v1/queries',
      { signals, ...spanOf(range), zone: this.zone, cells },
      asking.signal
    );
    if (told === null || asking.signal.aborted) return;
    for (const [index, { data }] of panels.entries()) {
      const one = Array.isArray(told) ? told[index] : told;
      if (one) data.take(one, range);
    }
  }

  /** Gives up what is under way. */
  stop(): void {
    this.#asking?.abort();
  }
}

export const spanOf = ({ from, to }: Range) => ({ from: textFromInstant(from), to: textFromInstant(to) });

/** Posts a question; null when it was given up. */
export async function post<Answer>(
  path: string,
  body: object,
  signal: AbortSignal
): Promise<Answer | AnswerFault | null> {
  try {
    const response = await fetch(path, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify(body),
      signal
    });
    const told: unknown = await response.json();
    if (response.ok) return told as Answer;
    const {
      message = 'Bussola could not answer.',
      remedy = '',
      path: where = [],
      at = null,
      problems = []
    } = told as Partial<AnswerFault> & { problems?: { path: string; message: string }[] };
    const [first] = problems;
    return first
      ? { message: first.message, remedy: '', path: first.path.split('.').slice(1), at: null }
      : { message, remedy, path: where, at };
  } catch (error) {
    if (signal.aborted) return null;
    if (!(error instanceof TypeError)) throw error;
    return {
      message: 'Bussola was not reached.',
      remedy: 'It tries again when the connection is back.',
      path: [],
      at: null
    };
  }
}
