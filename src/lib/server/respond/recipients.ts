import { personOf, type RotaWithOverrides, type Target } from '$lib/core/notify/route';
import type { Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';
import { allChannels, subscribersOf, type Channel } from '../notify/channels';
import { allPeople, quietOfPeople, type Person } from '../people/people';
import { quietUntil, type Quiet } from '$lib/core/people/quiet';
import type { Severity } from '$lib/core/alarm';
import { rotasWithOverrides } from '../rotas/rotas';

/** Who can be reached at an instant, and by what. */
export interface Contacts {
  readonly at: Instant;
  readonly channels: readonly Channel[];
  /** Whoever subscribes to a topic. */
  readonly subscribers: readonly Channel[];
  readonly people: readonly Person[];
  readonly rotas: ReadonlyMap<number, RotaWithOverrides>;
  /** Quiet hours of those who have any. */
  readonly quiet: ReadonlyMap<number, Quiet>;
}

/** Where a message is sent. */
export interface Recipient {
  readonly channelId: number;
  /** Whoever it reaches; null for a channel of all. */
  readonly personId: number | null;
  /** Before which they are not to be disturbed; null for at once. */
  readonly holdUntil: Instant | null;
}

export async function contactsNow(db: Queryable, at: Instant): Promise<Contacts> {
  // One after the other: within a transaction there is one connection.
  const channels = await allChannels(db);
  const subscribers = await subscribersOf(db);
  const people = await allPeople(db);
  const quiet = await quietOfPeople(db);
  return { at, channels, subscribers, people, quiet, rotas: await rotasWithOverrides(db, at) };
}

/**
 * The channels of targets, each once: of people and of whoever is on call, their own of the wanted kinds. What is not confirmed, or of somebody who is disabled, receives nothing. Who has quiet hours is not disturbed by what
 * is less grave than they said, unless they have the watch.
 *
 * @param severity of what they are notified of; null for what has none
 * @example recipientsOf([{ kind: 'channel', channelId: 3 }], contacts, 'major') // [{ channelId: 3, personId: null, holdUntil: null }]
 */
export function recipientsOf(
  targets: readonly Target[],
  { at, channels, subscribers, people, rotas, quiet }: Contacts,
  severity: Severity | null
): Recipient[] {
  const zones = new Map(people.map(({ id, zone }) => [id, zone]));
  const used = channels.filter(
    ({ confirmedAt, personId }) => confirmedAt !== null && (personId === null || zones.has(personId))
  );
  const found = targets.flatMap((target): Recipient[] => {
    const isOnCall = target.kind === 'rota';
    return channelsOf(target).map(({ id, personId }) => ({
      channelId: id,
      personId,
      holdUntil:
        personId === null || isOnCall
          ? null
          : quietUntil(quiet.get(personId) ?? null, zones.get(personId) ?? 'UTC', severity, at)
    }));
  });
  // Who is reached in two ways is reached by the sooner.
  const byChannel = new Map<number, Recipient>();
  for (const one of found) {
    const other = byChannel.get(one.channelId);
    if (other === undefined || one.holdUntil === null) byChannel.set(one.channelId, one);
  }
  return [...byChannel.values()];

  function channelsOf(target: Target): Channel[] {
    if (target.kind === 'channel')
      return used
        .filter(({ id }) => id === target.channelId)
        .flatMap((one) =>
          one.kind === 'topic'
            ? subscribers.filter(({ topicId, confirmedAt }) => topicId === one.id && confirmedAt !== null)
            : one
        );
    const personId = personOf(target, at, rotas);
    const kinds: readonly string[] = target.by;
    return personId === null
      ? []
      : used.filter((channel) => channel.personId === personId && kinds.includes(channel.kind));
  }
}

/** Whether anybody is reached at once, and, where nobody is but somebody has quiet hours, until when. @example reachOf([]) // { isReached: false, quietUntil: null } */
export function reachOf(recipients: readonly Recipient[]): {
  readonly isReached: boolean;
  readonly quietUntil: Instant | null;
} {
  const held = recipients.flatMap(({ holdUntil }) => (holdUntil === null ? [] : [holdUntil]));
  const isReached = held.length < recipients.length;
  return { isReached, quietUntil: isReached || held.length === 0 ? null : (Math.min(...held) as Instant) };
}
