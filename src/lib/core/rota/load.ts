import { dateAfter, dateAt, firstInstantAt, type Instant } from '../time';

/** When people sleep, by the clocks of their zone: from the first to the second, the next morning. */
const night = { from: '22:00', to: '07:00' };

/** Somebody who was notified. */
export interface Disturbance {
  readonly personId: number;
  readonly at: Instant;
}

/**
 * How many nights of each person were disturbed: one that was disturbed ten times counts once. A night is from 22:00 to 07:00 by the clocks of the person's zone.
 *
 * @param zoneOf the zone of a person
 * @returns by person; nobody whose nights were quiet
 * @example disturbedNights([{ personId: 3, at: threeInTheMorning }], () => 'Europe/Rome') // Map { 3 => 1 }
 */
export function disturbedNights(
  disturbances: readonly Disturbance[],
  zoneOf: (personId: number) => string
): ReadonlyMap<number, number> {
  const nights = new Map<number, Set<string>>();
  for (const { personId, at } of disturbances) {
    const evening = eveningOf(at, zoneOf(personId));
    if (evening === null) continue;
    const known = nights.get(personId) ?? new Set();
    nights.set(personId, known.add(evening));
  }
  return new Map([...nights].map(([personId, evenings]) => [personId, evenings.size]));
}

/** The date of the evening of the night that an instant is in; null by day. */
function eveningOf(at: Instant, zone: string): string | null {
  const today = dateAt(at, zone);
  if (at >= firstInstantAt(today, night.from, zone)) return today;
  return at < firstInstantAt(today, night.to, zone) ? dateAfter(today, -1) : null;
}
