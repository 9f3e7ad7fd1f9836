import { disturbedNights } from '$lib/core/rota';
import type { Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';
import { messagesToPeople } from '../notify/outbox-lists';
import { allPeople } from '../people/people';

/** How many nights of each person were disturbed by messages since an instant, the most first. */
export async function nightsSince(
  db: Queryable,
  since: Instant
): Promise<{ readonly personId: number; readonly name: string; readonly nights: number }[]> {
  const [people, sent] = await Promise.all([allPeople(db), messagesToPeople(db, since)]);
  const nights = disturbedNights(sent, (id) => people.find((person) => person.id === id)?.zone ?? 'UTC');
  return people
    .map(({ id, displayName }) => ({ personId: id, name: displayName, nights: nights.get(id) ?? 0 }))
    .filter((one) => one.nights > 0)
    .sort((a, b) => b.nights - a.nights);
}
