import type { ObjectiveStanding } from '$lib/core/objective';
import { peopleDuration, type Duration, type Instant } from '$lib/core/time';

/**
 * For how long an error budget lasts, in words.
 *
 * @param dayOf a moment's day, in the reader's language and zone
 * @example lastsWords(standing, dayOf) // '19 d at this pace'
 */
export function lastsWords(
  {
    left,
    spentSince,
    spentAt,
    until,
    period
  }: Pick<ObjectiveStanding, 'left' | 'spentSince' | 'spentAt' | 'until' | 'period'>,
  isRolling: boolean,
  dayOf: (at: Instant) => string
): string {
  if (left === null) return '';
  if (spentSince !== null) return `used up since ${dayOf(spentSince)}`;
  if (spentAt === null) return 'not being used';
  const end = isRolling ? until + (period.to - period.from) : period.to;
  if (spentAt >= end) return 'beyond the period';
  return `${peopleDuration((spentAt - until) as Duration, 1)} at this pace`;
}
