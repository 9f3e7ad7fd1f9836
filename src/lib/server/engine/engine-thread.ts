import * as Comlink from 'comlink';
import nodeEndpoint from 'comlink/dist/esm/node-adapter.mjs';
import type { Connection } from '../db/pool';
import type { Evaluator } from '../query/evaluator';
import type { EvaluatorClient } from '../query/query-thread';
import { openStore, type StoreClient } from '../store/open-store';
import type { Judging } from './judging';

/** What judges alarms, reached across its thread's border: every method gives a promise. */
export type JudgingClient = Comlink.Remote<Judging>;

/**
 * Starts the thread that holds the samples, evaluates signals over them and judges alarms. It ends with the store.
 *
 * @example const { store, evaluator, judging } = startEngineThread(embedded.connection); await store.ready
 */
export function startEngineThread(connection: Connection): {
  store: StoreClient;
  evaluator: EvaluatorClient;
  judging: JudgingClient;
} {
  const store = openStore(connection, 'engine/engine.worker.ts');
  const thread = Comlink.wrap<{ evaluator: Evaluator; judging: Judging }>(nodeEndpoint(store.worker));
  return {
    store,
    evaluator: thread.evaluator as unknown as EvaluatorClient,
    judging: thread.judging as unknown as JudgingClient
  };
}
