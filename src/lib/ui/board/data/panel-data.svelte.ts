import { callApi } from '../../api';
import { type Problem } from '$lib/core/problem/problem';
import { unpacked, type PackedAnswer, type QueryAnswer, type Statistic } from '$lib/core/series';
import type { Signal } from '$lib/core/signal';
import { textFromInstant, type Range } from '$lib/core/time';

/** What a panel knows: the newest answer, the range it was requested for, and why there is none. */
export class PanelData {
  answer = $state.raw<QueryAnswer | null>(null);
  range = $state.raw<Range | null>(null);
  problem = $state<string | null>(null);
  /** The problem with its code and where in the signal it lies. */
  refusal = $state.raw<Problem | null>(null);
  /** What was asked last, in words of the board: the same is not asked again but for news. */
  asked = '';
  #asking: AbortController | null = null;

  /** @param zone in which cells of days begin: the reader's */
  constructor(readonly zone = 'UTC') {}

  /** Requests a signal; an answer still under way is given up. What was drawn stays until the new answer is there. */
  async ask(signal: Signal, range: Range, cells: number): Promise<void> {
    this.#asking?.abort();
    const asking = (this.#asking = new AbortController());
    const told = await post<QueryAnswer>('/query', { signal, ...spanOf(range), zone: this.zone, cells }, asking.signal);
    if (told !== null && !asking.signal.aborted) this.take(told, range);
  }

  /** Takes an answer, or why there is none. */
  take(told: QueryAnswer | Problem, range: Range): void {
    if ('series' in told) {
      this.answer = told;
      this.range = range;
      this.problem = null;
      this.refusal = null;
      return;
    }
    this.problem = [told.message, told.remedy].filter(Boolean).join(' ');
    this.refusal = told;
  }

  /** Gives up what is under way. */
  stop(): void {
    this.#asking?.abort();
  }
}

/** Something that a panel asks: a signal over a range, in at most so many cells. */
export interface PanelQuery {
  readonly data: PanelData;
  readonly signal: Signal;
  readonly range: Range;
  readonly cells: number;
  /** What it is of the board, for readers who may request nothing else. */
  readonly of: PartOfBoard;
}

/** A signal of a panel, by its place, with how it is read at the moment. */
export interface PartOfBoard {
  readonly panel: string;
  readonly column: number;
  readonly step?: Signal['step'];
  readonly statistic?: Statistic;
}

/** Signals of one request: the first of a large board are drawn while the others are still computed. */
const mostTogether = 12;

/** What the panels of one board ask; together, so that the server reads what they share once. */
export class BoardData {
  /** The newest query of each panel's data; answers to older ones are not taken. */
  readonly #newest = new Map<PanelData, PanelQuery>();
  readonly #underWay = new Map<AbortController, readonly PanelQuery[]>();

  /**
   * @param board its id; null for one that is not stored
   * @param token of a link by which the board is seen; without one, signals are requested as they are
   */
  constructor(
    readonly board: number | null,
    readonly token: string | null = null
  ) {}

  /** Sends queries; an answer still under way is given up when all that it was requested for is requested anew. */
  async ask(queries: readonly PanelQuery[], zone: string): Promise<void> {
    for (const query of queries) this.#newest.set(query.data, query);
    for (const [asking, asked] of this.#underWay)
      if (asked.every((query) => this.#newest.get(query.data) !== query)) asking.abort();
    await Promise.all(together(queries).map((some) => this.#askTogether(some, zone)));
  }

  async #askTogether(queries: readonly PanelQuery[], zone: string): Promise<void> {
    const [first] = queries;
    if (!first) return;
    const asking = new AbortController();
    this.#underWay.set(asking, queries);
    const [path, what] =
      this.token === null
        ? ['/queries', { signals: queries.map(({ signal }) => signal), ...this.#panelsOf(queries) }]
        : [`/shared/${this.token}/queries`, { asks: queries.map(({ of }) => of) }];
    const told = await post<(PackedAnswer | Problem)[]>(
      path,
      {
        ...what,
        ...spanOf(first.range),
        spans: queries.map(({ range, cells }) => ({ ...spanOf(range), cells })),
        zone,
        values: 'packed'
      },
      asking.signal
    );
    this.#underWay.delete(asking);
    if (told === null) return;
    for (const [index, query] of queries.entries()) {
      const one = Array.isArray(told) ? told[index] : told;
      if (one && this.#newest.get(query.data) === query)
        query.data.take('series' in one ? unpacked(one) : one, query.range);
    }
  }

  /** Which panels the queries are of. */
  #panelsOf(queries: readonly PanelQuery[]): object {
    return this.board === null ? {} : { of: { board: this.board, panels: queries.map(({ of }) => of.panel) } };
  }

  /** Gives up what is under way. */
  stop(): void {
    for (const asking of this.#underWay.keys()) asking.abort();
  }
}

/** Questions in lists that one request may have. */
const together = (queries: readonly PanelQuery[]): (readonly PanelQuery[])[] =>
  Array.from({ length: Math.ceil(queries.length / mostTogether) }, (_, part) =>
    queries.slice(part * mostTogether, (part + 1) * mostTogether)
  );

export const spanOf = ({ from, to }: Range) => ({ from: textFromInstant(from), to: textFromInstant(to) });

/** Posts a query; null when it was cancelled. */
export async function post<Answer>(path: string, body: object, signal: AbortSignal): Promise<Answer | Problem | null> {
  const reply = await callApi<Answer>('POST', path, { body, signal });
  if (reply.kind === 'cancelled') return null;
  if (reply.kind === 'answered') return reply.answer;
  const [first] = reply.problem.problems ?? [];
  // Paths in what was sent begin with the part that holds the signal.
  return first
    ? { ...reply.problem, message: first.message, remedy: '', path: first.path.split('.').slice(1) }
    : reply.problem;
}
