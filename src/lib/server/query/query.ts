import { Refusal, type Problem, refusalOf } from '$lib/core/problem/problem';
import { createHash } from 'node:crypto';
import { slowWork } from '../base/slow-work';
import { linesOf, type Signal } from '$lib/core/signal';
import type { Clock } from '$lib/core/time';
import type { Queryable } from '../db/pool';
import { GivenUp, type QueryQueue, type Reader } from './query-queue';
import { budgets, type AnswerFormat } from './signals/answered';
import type { Queries, Query } from './signals/query-schema';
import { resolveSignal } from './signals/resolve';
import type { AnsweredBytes } from './evaluator';
import type { EvaluatorClient } from './query-thread';

export { queriesSchema, querySchema, type Queries, type Query } from './signals/query-schema';

/** What asking needs. */
interface Asked {
  readonly evaluator: EvaluatorClient;
  readonly clock: Clock;
  readonly queryQueue: QueryQueue;
}

/** Bussola's own queries, which nobody stops waiting for. */
const itself: Reader = { name: 'Bussola' };

/**
 * Evaluates a signal over a range when the reader's turn comes: the answer as bytes of JSON or CSV. All of it is done in the store's thread, however many series the signal picks.
 *
 * @throws Refusal with the path within the signal; Refusal when the answer would have too many cells, naming the shortest step that fits; Refusal `too-many-requests`; GivenUp when
 *   the reader has gone
 */
export async function answerQuery(
  { evaluator, clock, queryQueue }: Asked,
  query: Query,
  reader: Reader = itself,
  format: AnswerFormat = 'json'
): Promise<Uint8Array> {
  const lines = await linesFor(reader, [query.signal]);
  return queryQueue.ask(reader, keyOf([format, query, lines]), async (gone) => {
    const { bytes, took } = await untilGone(evaluator, gone, (ticket) =>
      evaluator.answerQuery(query, clock.now(), { format, lines, ticket })
    );
    noteTook([query.signal], took);
    return bytes;
  });
}

/**
 * Evaluates the signals of a board together when the reader's turn comes: a list with one entry for each signal, either an answer or why there is none. What they share is read once.
 *
 * @throws Refusal `too-many-requests`; GivenUp when the reader has gone
 */
export async function answerQueries(
  { evaluator, clock, queryQueue }: Asked,
  { of, ...queries }: Queries,
  reader: Reader = itself
): Promise<Uint8Array> {
  const budget = reader.isAnonymous ? budgets.link : budgets.person;
  const lines = await linesFor(reader, queries.signals);
  return queryQueue.ask(reader, keyOf([budget, queries, lines]), async (gone) => {
    const { bytes, took } = await untilGone(evaluator, gone, (ticket) =>
      evaluator.answerQueries(queries, clock.now(), { budget, lines, ticket })
    );
    noteTook(queries.signals, took, of);
    return bytes;
  });
}

/** Remembers how long each signal took, of the panel whose it is where that is known. */
function noteTook(signals: readonly Signal[], took: readonly number[], of?: Queries['of']): void {
  for (const [index, ms] of took.entries()) {
    const panel = of?.panels[index];
    if (of !== undefined && panel !== undefined)
      slowWork.note('panels', `${of.board} ${panel}`, ms, { board: of.board, panel });
    else slowWork.note('queries', JSON.stringify(signals[index]), ms);
  }
}

/** The accounts whose lines a reader may have counted, where signals count lines: equal queries of other readers are the same ones then. */
const linesFor = async ({ lineAccounts }: Reader, signals: readonly Signal[]): Promise<readonly number[] | null> =>
  lineAccounts !== undefined && signals.some((signal) => linesOf(signal).length > 0) ? lineAccounts() : null;

/** Equal for equal queries, and short. */
export const keyOf = (query: unknown): string => createHash('sha256').update(JSON.stringify(query)).digest('base64');

let tickets = 0;

/** Has the store work, and tells it to stop when nobody waits any more. */
async function untilGone(
  evaluator: EvaluatorClient,
  gone: AbortSignal,
  work: (ticket: number) => Promise<AnsweredBytes | Problem>
): Promise<AnsweredBytes> {
  const ticket = ++tickets;
  const giveUp = () => void evaluator.cancel(ticket);
  gone.addEventListener('abort', giveUp);
  try {
    const answer = await work(ticket);
    if ('bytes' in answer) return answer;
    throw gone.aborted ? new GivenUp() : refusalOf(answer);
  } finally {
    gone.removeEventListener('abort', giveUp);
  }
}

/** Why a signal cannot be had of its metrics, in words; null when it can. */
export async function signalProblem(db: Queryable, signal: Signal): Promise<Refusal | null> {
  try {
    await resolveSignal(db, signal);
    return null;
  } catch (error) {
    if (error instanceof Refusal) return error;
    throw error;
  }
}
