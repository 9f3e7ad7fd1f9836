import { AsyncResource } from 'node:async_hooks';
import { timed } from '../base/own-counters';
import { Readers } from '../base/readers';
import { Refusal } from '$lib/core/problem/problem';

/** Who asks a query, and whether they still wait for its answer. */
export interface Reader {
  /** Equal for all that one person asks, or all who have one link. */
  readonly name: string;
  /** Somebody who has not signed in: of these, one query is worked on at a time. */
  readonly isAnonymous?: boolean;
  /** Accounts whose lines they may read; all where it is not said, as on a board that was shared by a link. */
  readonly lineAccounts?: () => Promise<readonly number[] | null>;
  /** Aborted when they have gone. */
  readonly gone?: AbortSignal | undefined;
}

/** Nobody waits for the answer any more. */
export class GivenUp extends Error {
  override readonly name = 'GivenUp';
}

export interface QueryLimits {
  /** Questions that are worked on at the same time, of each reader one. */
  readonly atOnce: number;
  /** Questions of one reader that may wait. */
  readonly ofReader: number;
  /** Questions of all that may wait. */
  readonly ofAll: number;
}

const usual: QueryLimits = { atOnce: 2, ofReader: 60, ofAll: 600 };

interface QueuedQuery {
  readonly key: string | null;
  readonly isAnonymous: boolean;
  readonly stop: AbortController;
  /** In the trace of whoever asked, whoever lets it begin. */
  readonly work: () => Promise<unknown>;
  readonly done: Promise<unknown>;
  readonly settle: { resolve(value: unknown): void; reject(error: unknown): void };
  askers: number;
}

/**
 * Lets the queries of all readers take turns: one of each reader after the other, so that a reader with many queries does not make the others wait. What the engine evaluates
 * does not stand in this queue. Equal queries that wait or are worked on are answered once, and a query whose askers have all gone is given up.
 *
 * @example
 * const turns = new QueryQueue();
 * await turns.ask({ name: 'person 3' }, JSON.stringify(query), (gone) => evaluate(query, gone));
 */
export class QueryQueue {
  readonly #limits: QueryLimits;
  /** Questions that wait, by reader; the reader whose turn is next comes first. */
  readonly #waiting = new Map<string, QueuedQuery[]>();
  readonly #working = new Map<string, QueuedQuery>();
  readonly #known = new Map<string, QueuedQuery>();

  /** @param readers hears who waits for an answer */
  constructor(
    limits: Partial<QueryLimits> = {},
    readonly readers = new Readers()
  ) {
    this.#limits = { ...usual, ...limits };
  }

  /**
   * @param key says what is asked; null for a query that is like no other
   * @param work is given a signal that is aborted when nobody waits any more
   * @throws Refusal `too-many-requests` when the queue is full; GivenUp when the reader has gone
   */
  async ask<Answer>(reader: Reader, key: string | null, work: (gone: AbortSignal) => Promise<Answer>): Promise<Answer> {
    const { gone } = reader;
    if (gone?.aborted) throw new GivenUp();
    const query = (key === null ? undefined : this.#known.get(key)) ?? this.#queue(reader, key, work);
    query.askers++;
    const answered = this.readers.begin();
    let left: () => void = () => undefined;
    const leaving = new Promise<never>((_resolve, reject) => {
      left = () => reject(new GivenUp());
    });
    gone?.addEventListener('abort', left, { once: true });
    try {
      return (await Promise.race([query.done, leaving])) as Answer;
    } finally {
      answered();
      gone?.removeEventListener('abort', left);
      if (--query.askers === 0) this.#giveUp(query);
    }
  }

  /** Questions that wait. */
  get length(): number {
    let sum = 0;
    for (const queries of this.#waiting.values()) sum += queries.length;
    return sum;
  }

  #queue(
    { name, isAnonymous = false }: Reader,
    key: string | null,
    asked: (gone: AbortSignal) => Promise<unknown>
  ): QueuedQuery {
    const own = this.#waiting.get(name) ?? [];
    if (own.length >= this.#limits.ofReader || this.length >= this.#limits.ofAll)
      throw new Refusal(
        'too-many-requests',
        'Too many queries are waiting for an answer.',
        'Wait a moment and try again, or ask for fewer panels or a shorter range.'
      );
    let settle: QueuedQuery['settle'] = { resolve: () => undefined, reject: () => undefined };
    const done = new Promise<unknown>((resolve, reject) => (settle = { resolve, reject }));
    done.catch(() => undefined); // whoever waits for it has the error
    const stop = new AbortController();
    const work = AsyncResource.bind(() => timed('queries', () => asked(stop.signal)));
    const query: QueuedQuery = { key, isAnonymous, work, done, settle, stop, askers: 0 };
    if (key !== null) this.#known.set(key, query);
    this.#waiting.set(name, [...own, query]);
    queueMicrotask(() => this.#next());
    return query;
  }

  /** Begins what may be begun now. */
  #next(): void {
    for (const [name, [query, ...others]] of [...this.#waiting]) {
      if (this.#working.size >= this.#limits.atOnce) return;
      if (query === undefined || this.#working.has(name) || !this.#mayBegin(query)) continue;
      this.#waiting.delete(name);
      if (others.length > 0) this.#waiting.set(name, others); // behind all others
      void this.#work(name, query);
    }
  }

  #mayBegin({ isAnonymous }: QueuedQuery): boolean {
    return !isAnonymous || ![...this.#working.values()].some((one) => one.isAnonymous);
  }

  async #work(name: string, query: QueuedQuery): Promise<void> {
    this.#working.set(name, query);
    try {
      query.settle.resolve(await query.work());
    } catch (error) {
      query.settle.reject(error);
    }
    this.#working.delete(name);
    this.#forget(query);
    this.#next();
  }

  #giveUp(query: QueuedQuery): void {
    this.#forget(query);
    query.stop.abort();
    for (const [name, queries] of this.#waiting) {
      if (!queries.includes(query)) continue;
      const rest = queries.filter((one) => one !== query);
      if (rest.length > 0) this.#waiting.set(name, rest);
      else this.#waiting.delete(name);
    }
  }

  #forget(query: QueuedQuery): void {
    if (query.key !== null && this.#known.get(query.key) === query) this.#known.delete(query.key);
  }
}
