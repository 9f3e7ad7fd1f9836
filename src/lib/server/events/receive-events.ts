import type { ArrivedEvents } from '$lib/core/events';
import { noteDropped, pushedService } from '../intake/ledger/collections';
import type { Key } from '../intake/receive/keys';
import type { Context } from '../db/context';
import { Refusal } from '$lib/core/problem/problem';
import { saveArrivedEvents } from './outside-events';

/** What receiving events came to. */
export interface TakenEvents {
  readonly accepted: number;
  /** Those that were stored before: the same id of the same source. */
  readonly known: number;
  readonly rejected: number;
  readonly faults: readonly string[];
}

/** Faults that are named. */
const mostFaults = 20;

/** Whether a request has the attributes of an event in its headers. */
export const isInHeaders = (headers: Headers): boolean => headers.has('ce-specversion') || headers.has('ce-id');

/** Headers that are attributes, within a limit. @throws Refusal `too-large` */
export function attributesIn(headers: Headers): Readonly<Record<string, string>> {
  const own = [...headers].filter(([name]) => name.startsWith('ce-'));
  if (own.length > 100) throw new Refusal('too-large', 'There are more than 100 attributes.', 'Send fewer.');
  return Object.fromEntries(own);
}

/** Stores events that a program sent, each once. When this resolves, what was accepted is stored. */
export async function keepEvents(
  { db, clock, changes }: Context,
  { accountId }: Pick<Key, 'accountId'>,
  { events, refused }: ArrivedEvents
): Promise<TakenEvents> {
  const unique = [...new Map(events.map((event) => [`${event.source}\n${event.id}`, event])).values()];
  const accepted = unique.length === 0 ? 0 : await saveArrivedEvents(db, accountId, unique);
  const faults = refused.map(({ position, why }) => `Event ${position + 1}: ${why}`);
  if (faults.length > 0)
    await noteDropped(
      db,
      accountId,
      pushedService,
      [{ reason: 'events that cannot be read', count: faults.length, example: faults[0] ?? '' }],
      clock.now()
    );
  if (accepted > 0) changes.tell('account', { accountId });
  return { accepted, known: events.length - accepted, rejected: refused.length, faults: faults.slice(0, mostFaults) };
}
