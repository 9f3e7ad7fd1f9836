import * as Comlink from 'comlink';
import nodeEndpoint from 'comlink/dist/esm/node-adapter.mjs';
import type { Connection } from '../db/pool';
import { openStore, type StoreClient } from '../store/open-store';
import type { Evaluator } from './evaluator';

/** The evaluator, reached across its thread's border: every method gives a promise. */
export type EvaluatorClient = Comlink.Remote<Evaluator>;

/**
 * Starts the thread that holds the samples and evaluates signals over them. It ends with the store.
 *
 * @example const { store, evaluator } = startQueryThread(embedded.connection); await store.ready
 */
export function startQueryThread(connection: Connection): { store: StoreClient; evaluator: EvaluatorClient } {
  const store = openStore(connection, 'query/query.worker.ts');
  const { evaluator } = Comlink.wrap<{ evaluator: Evaluator }>(nodeEndpoint(store.worker));
  return { store, evaluator: evaluator as unknown as EvaluatorClient };
}
