import { Refusal, type Problem, problemOf } from '$lib/core/problem/problem';
import { setImmediate } from 'node:timers/promises';
import type { MessagePort } from 'node:worker_threads';
import * as Comlink from 'comlink';
import nodeEndpoint from 'comlink/dist/esm/node-adapter.mjs';
import type { Worked } from '$lib/core/signal';
import type { Duration, Instant, Range } from '$lib/core/time';
import type { Database } from '../db/pool';
import type { SampleStore } from '../store/sample-store';
import { catalogueEntries } from './catalogue/entries';
import {
  answeredQueries,
  answeredQuery,
  type Answered,
  type AnswerFormat,
  type CellBudget,
  type EvaluationContext
} from './signals/answered';
import { matchedBy, type MatchAsked, type Matched } from './signals/matched';
import type { Queries, Query } from './signals/query-schema';
import type { LineCounter } from './signals/line-rows';
import { workOutSignals, type AskedWork, type SignalWork } from './signals/work';

/** Answers as bytes of text, with how long it took to compute each, ms. */
export interface AnsweredBytes {
  readonly bytes: Uint8Array;
  readonly took: readonly number[];
}

/** For whom something is answered: which ticket gives it up, and the accounts whose lines they may have counted; null for all. */
interface AnsweredFor {
  readonly ticket: number;
  readonly lines: readonly number[] | null;
}

/** Evaluates signals over the samples of a store, in its thread. Its methods take and give only what can cross a thread's border. */
export class Evaluator {
  readonly #db: Database;
  readonly #store: SampleStore;
  /** Tickets of queries whose readers have gone. */
  readonly #cancelled = new Set<number>();
  /** Where lines are counted; null where there are none. */
  #lines: LineCounter | null = null;

  constructor(db: Database, store: SampleStore) {
    this.#db = db;
    this.#store = store;
  }

  /** Says by which port lines are counted, see `LogClient.port`. */
  countLinesBy(port: MessagePort): void {
    this.#lines = Comlink.wrap<LineCounter>(nodeEndpoint(port));
  }

  /** A signal computed over a range. @throws RangeError when the grid would be too large */
  async evaluate(work: SignalWork, range: Range, step: Duration, zone = 'UTC'): Promise<Worked> {
    const [worked] = await this.evaluateAll([{ work, span: range, step }], zone);
    return worked as Worked;
  }

  /** Several signals computed; what they share is read once. */
  evaluateAll(asked: readonly AskedWork[], zone = 'UTC', ticket: number | null = null): Promise<Worked[]> {
    const { sources, settled } = this.#store;
    const from = { db: this.#db, sources, settled, lines: this.#lines };
    return workOutSignals(asked, zone, from, async () => {
      await setImmediate(); // messages of the engine come in between
      if (ticket !== null && this.#cancelled.has(ticket))
        throw new Refusal('cancelled', 'Nobody waits for the answer.', 'Ask again.');
    });
  }

  /** Ends the work on a query at its next signal: its reader has gone. */
  cancel(ticket: number): void {
    this.#cancelled.add(ticket);
  }

  /** A query answered as text of the API; why not, when it is refused. */
  answerQuery(
    query: Query,
    now: Instant,
    { format, ...by }: AnsweredFor & { readonly format: AnswerFormat }
  ): Promise<AnsweredBytes | Problem> {
    return this.#answer(now, by, (context) => answeredQuery(context, query, format));
  }

  /** The signals of a board answered together, as JSON of the API: written here so that the web process only passes bytes on. */
  answerQueries(
    queries: Queries,
    now: Instant,
    { budget, ...by }: AnsweredFor & { readonly budget: CellBudget }
  ): Promise<AnsweredBytes | Problem> {
    return this.#answer(now, by, (context) => answeredQueries(context, queries, budget));
  }

  /** What a pick selects, and what it could choose from: written here, since a pattern may match all series there are. */
  matched(pick: MatchAsked): Promise<Matched> {
    return matchedBy(this.#db, pick);
  }

  /** The metrics of the catalogue as they are now, a list of `CatalogueEntry` as JSON: it crosses the thread's border faster than the list itself. */
  async catalogue(now: Instant): Promise<Uint8Array> {
    return transferred(JSON.stringify(await catalogueEntries(this.#db, (ids) => this.#store.newest(ids), now)));
  }

  async #answer(
    now: Instant,
    { ticket, lines }: AnsweredFor,
    write: (context: EvaluationContext) => Promise<Answered>
  ): Promise<AnsweredBytes | Problem> {
    const context: EvaluationContext = {
      db: this.#db,
      now,
      lines,
      evaluateAll: (asked, zone) => this.evaluateAll(asked, zone, ticket),
      newest: (ids) => this.#store.newest(ids)
    };
    try {
      const { text, took } = await write(context);
      const bytes = new TextEncoder().encode(text);
      return Comlink.transfer({ bytes, took }, [bytes.buffer]);
    } catch (error) {
      if (!(error instanceof Refusal)) throw error;
      return problemOf(error);
    } finally {
      this.#cancelled.delete(ticket);
    }
  }
}

function transferred(text: string): Uint8Array {
  const bytes = new TextEncoder().encode(text);
  return Comlink.transfer(bytes, [bytes.buffer]);
}
