import type { Severity } from '../alarm';
import { day, duration, hour, minute, times, type Duration } from '../time';

/** When an alarm on the use of a budget is raised: in a long span and in a short one it is used at least so fast. */
export interface BurnLevel {
  readonly severity: Severity;
  readonly long: Duration;
  /** A twelfth of the long one: it ends the alarm soon after the trouble does. */
  readonly short: Duration;
  /** How many times as fast as the whole period has room for. */
  readonly rate: number;
}

/** Which share of the budget of a month is used up in which span, before somebody is woken, or told in the morning. */
const shares: readonly { severity: Severity; share: number; long: Duration }[] = [
  { severity: 'critical', share: 0.02, long: hour },
  { severity: 'major', share: 0.05, long: times(6, hour) },
  { severity: 'minor', share: 0.1, long: times(3, day) }
];
const usualPeriod = times(30, day);
const shortest = minute;

/**
 * The levels that suit a period: each says which share of the budget is used within its long span. Spans grow with the period, rates stay. For thirty days they are the
 * rates over two spans at once that the literature on reliability engineering has published: 14.4 over an hour, 6 over six hours, 1 over three days.
 *
 * @param period over which the promise is kept
 * @param target the share that has to be good: what cannot be reached, since all being bad is slower, is left out
 * @example burnLevels(times(30, day), 0.999).map(({ rate }) => rate) // [14.4, 6, 1]
 */
export function burnLevels(period: Duration, target: number): BurnLevel[] {
  const fastest = 1 / (1 - target);
  return shares.flatMap(({ severity, share, long }) => {
    const rate = (share * usualPeriod) / long;
    const span = wholeMinutes((long * period) / usualPeriod);
    return rate >= fastest ? [] : [{ severity, long: span, short: wholeMinutes(span / 12), rate }];
  });
}

const wholeMinutes = (length: number): Duration => duration(Math.max(1, Math.round(length / shortest)) * shortest);
