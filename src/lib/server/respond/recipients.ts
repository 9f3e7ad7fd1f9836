import { personOf, type RotaWithOverrides, type Target } from '$lib/core/notify/route';
import type { Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';
import { allChannels, type Channel } from '../notify/channels';
import { allPeople, type Person } from '../people/people';
import { rotasWithOverrides } from '../rotas/rotas';

/** Who can be reached at an instant, and by what. */
export interface Contacts {
  readonly at: Instant;
  readonly channels: readonly Channel[];
  readonly people: readonly Person[];
  readonly rotas: ReadonlyMap<number, RotaWithOverrides>;
}

/** Where a message is sent. */
export interface Recipient {
  readonly channelId: number;
  /** Whoever it reaches; null for a channel of all. */
  readonly personId: number | null;
}

export async function contactsNow(db: Queryable, at: Instant): Promise<Contacts> {
  // One after the other: within a transaction there is one connection.
  const channels = await allChannels(db);
  const people = await allPeople(db);
  return { at, channels, people, rotas: await rotasWithOverrides(db, at) };
}

/**
 * The channels of targets, each once: of people and of whoever is on call, their own of the wanted kinds. What is not confirmed receives nothing.
 *
 * @example recipientsOf([{ kind: 'channel', channelId: 3 }], contacts) // [{ channelId: 3, personId: null }]
 */
export function recipientsOf(targets: readonly Target[], { at, channels, rotas }: Contacts): Recipient[] {
  const confirmed = channels.filter(({ confirmedAt }) => confirmedAt !== null);
  const found = targets.flatMap((target) => {
    if (target.kind === 'channel') return confirmed.filter(({ id }) => id === target.channelId);
    const personId = personOf(target, at, rotas);
    const kinds: readonly string[] = target.by;
    return personId === null
      ? []
      : confirmed.filter((channel) => channel.personId === personId && kinds.includes(channel.kind));
  });
  return [...new Map(found.map(({ id, personId }) => [id, { channelId: id, personId }])).values()];
}
