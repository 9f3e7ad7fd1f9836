import type { ParserPool } from '../parsing/parser-pool';
import type { LinesTask, ReceivedLines } from '../parsing/tasks';
import type { Clock } from '$lib/core/time';
import type { Database } from '../db/pool';
import { allResources } from '../inventory/resources';
import { pushedService } from '../intake/ledger/collections';
import type { Key } from '../intake/receive/keys';
import { note } from './feeds/take-page';
import { rulesFor } from './line-rules';
import type { LogClient } from './open-logs';
import { belongingOf, ResourcesByName } from './whose-lines';

/** What receiving lines came to. */
export interface TakenLines {
  readonly accepted: number;
  readonly rejected: number;
  /** How many lines had what was wrong with them, those that were kept in part among them. */
  readonly reasons: Readonly<Record<string, number>>;
  readonly faults: readonly string[];
}

/**
 * Reads what a program sent as lines, off the event loop; rules have left out and masked what they say.
 *
 * @throws Refusal when it is refused whole
 */
export const readReceived = async (
  { db, clock, parsers }: { readonly db: Database; readonly clock: Clock; readonly parsers: ParserPool },
  key: Key,
  sent: Pick<LinesTask, 'format' | 'body' | 'isGzip'>
): Promise<ReceivedLines> => parsers.lines({ ...sent, now: clock.now(), rules: await rulesFor(db, key.accountId) });

/** Keeps lines that a program sent, each with the resource that wrote it. When this resolves, what was accepted is stored. */
export async function keepReceived(
  { db, clock, logs }: { readonly db: Database; readonly clock: Clock; readonly logs: LogClient },
  key: Key,
  received: ReceivedLines
): Promise<TakenLines> {
  const { batches, refused, faults } = received;
  const resources = new ResourcesByName(batches.length === 0 ? [] : await allResources(db));
  const arriving = batches.map(({ origin, batch }) => ({ ...belongingOf(origin, resources, key), batch }));
  const accepted = await logs.logs.append(clock.now(), arriving);
  await note({ db, clock }, key.accountId, pushedService, received, accepted);
  return {
    accepted,
    rejected: refused,
    reasons: Object.fromEntries(faults.map(({ fault, count }) => [fault, count])),
    faults: faults.map(({ example }) => example)
  };
}
