import { unpacked, type AnswerFault, type PackedAnswer, type QueryAnswer, type Statistic } from '$lib/core/series';
import type { Signal } from '$lib/core/signal';
import { textFromInstant, type Range } from '$lib/core/time';

/** What a panel knows: the newest answer, the range it was asked for, and why there is none. */
export class PanelData {
  answer = $state.raw<QueryAnswer | null>(null);
  range = $state.raw<Range | null>(null);
  problem = $state<string | null>(null);
  /** Where in the signal the problem is, when it is there. */
  fault = $state.raw<AnswerFault | null>(null);
  /** What was asked last, in words of the board: the same is not asked again but for news. */
  asked = '';
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

/** Something that a panel asks: a signal over a range, in at most so many cells. */
export interface Question {
  readonly data: PanelData;
  readonly signal: Signal;
  readonly range: Range;
  readonly cells: number;
  /** What it is of the board, for who may ask for nothing else. */
  readonly of: PartOfBoard;
}

/** A signal of a panel, by its place, with how it is read at the moment. */
export interface PartOfBoard {
  readonly panel: string;
  readonly column: number;
  readonly step?: Signal['step'];
  readonly statistic?: Statistic;
}

/** Signals of one request: the first of a large board are drawn while the others are still worked out. */
const mostTogether = 12;

/** What the panels of one board ask; together, so that the server reads what they share once. */
export class BoardData {
  /** The newest question of each panel's data; answers to older ones are not taken. */
  readonly #newest = new Map<PanelData, Question>();
  readonly #underWay = new Map<AbortController, readonly Question[]>();

  /** @param token of a link by which the board is seen; without one, signals are asked for as they are */
  constructor(readonly token: string | null = null) {}

  /** Asks; an answer still under way is given up when all it was asked for is asked anew. */
  async ask(questions: readonly Question[], zone: string): Promise<void> {
    for (const question of questions) this.#newest.set(question.data, question);
    for (const [asking, asked] of this.#underWay)
      if (asked.every((question) => this.#newest.get(question.data) !== question)) asking.abort();
    await Promise.all(together(questions).map((some) => this.#askTogether(some, zone)));
  }

  async #askTogether(questions: readonly Question[], zone: string): Promise<void> {
    const [first] = questions;
    if (!first) return;
    const asking = new AbortController();
    this.#underWay.set(asking, questions);
    const [path, what] =
      this.token === null
        ? ['/api/v1/queries', { signals: questions.map(({ signal }) => signal) }]
        : [`/api/v1/shared/${this.token}/queries`, { asks: questions.map(({ of }) => of) }];
    const told = await post<(PackedAnswer | AnswerFault)[]>(
      path,
      {
        ...what,
        ...spanOf(first.range),
        spans: questions.map(({ range, cells }) => ({ ...spanOf(range), cells })),
        zone,
        values: 'packed'
      },
      asking.signal
    );
    this.#underWay.delete(asking);
    if (told === null) return;
    for (const [index, question] of questions.entries()) {
      const one = Array.isArray(told) ? told[index] : told;
      if (one && this.#newest.get(question.data) === question)
        question.data.take('series' in one ? unpacked(one) : one, question.range);
    }
  }

  /** Gives up what is under way. */
  stop(): void {
    for (const asking of this.#underWay.keys()) asking.abort();
  }
}

/** Questions in lists that one request may have. */
const together = (questions: readonly Question[]): (readonly Question[])[] =>
  Array.from({ length: Math.ceil(questions.length / mostTogether) }, (_, part) =>
    questions.slice(part * mostTogether, (part + 1) * mostTogether)
  );

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
