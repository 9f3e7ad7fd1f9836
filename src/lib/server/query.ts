import type { AnswerFault } from '$lib/core/series';
import type { Signal } from '$lib/core/signal';
import type { Clock } from '$lib/core/time';
import type { Queryable } from './db/pool';
import { Refusal } from './refusal';
import type { AnswerFormat } from './signals/answered';
import type { Queries, Query } from './signals/query-schema';
import { resolveSignal, SignalRefusal } from './signals/resolve';
import type { StoreClient } from './store/open-store';

export { queriesSchema, querySchema, type Queries, type Query } from './signals/query-schema';

/** What asking needs. */
interface Asked {
  readonly store: StoreClient;
  readonly clock: Clock;
}

/**
 * Evaluates a signal over a range: the answer as bytes of JSON or CSV. All of it is done in the store's thread, however many series the signal picks.
 *
 * @throws SignalRefusal with the path within the signal; Refusal when the answer would have too many cells, naming the shortest step that fits
 */
export async function answerQuery(
  { store, clock }: Asked,
  query: Query,
  format: AnswerFormat = 'json'
): Promise<Uint8Array> {
  const answer = await store.samples.answerQuery(query, clock.now(), format);
  if (answer instanceof Uint8Array) return answer;
  throw refusalOf(answer);
}

/** Evaluates the signals of a board together: a list with one entry for each signal, either an answer or why there is none. What they share is read once. */
export const answerQueries = ({ store, clock }: Asked, queries: Queries): Promise<Uint8Array> =>
  store.samples.answerQueries(queries, clock.now());

const refusalOf = ({ message, remedy, path, at }: AnswerFault): Refusal =>
  path.length > 0 ? new SignalRefusal(message, remedy, path, at) : new Refusal(message, remedy);

/** Why a signal cannot be had of its metrics, in words; null when it can. */
export async function signalProblem(db: Queryable, signal: Signal): Promise<SignalRefusal | null> {
  try {
    await resolveSignal(db, signal);
    return null;
  } catch (error) {
    if (error instanceof SignalRefusal) return error;
    throw error;
  }
}
