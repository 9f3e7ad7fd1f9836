import type { Duration } from './duration';
import type { Instant } from './instant';

/** A span of time, half-open: it holds `from` and does not hold `to`. */
export interface Range {
  readonly from: Instant;
  readonly to: Instant;
}

/**
 * Makes a half-open range.
 *
 * @throws RangeError when `to` is before `from`; an empty range (both equal) is allowed
 * @example range(instant(0), instant(60_000)) // { from: 0, to: 60000 }
 */
export function range(from: Instant, to: Instant): Range {
  if (to < from) throw new RangeError(`range: to (${to}) must not be before from (${from})`);
  return { from, to };
}

/** @example rangeLength({ from: 0, to: 60_000 }) // 60000 */
export const rangeLength = ({ from, to }: Range): Duration => (to - from) as Duration;

/** @example inRange({ from: 0, to: 10 }, 10) // false: the end is outside */
export const inRange = ({ from, to }: Range, at: Instant): boolean => at >= from && at < to;

/**
 * The part two ranges share, or null when they share no instant.
 *
 * @example overlap({ from: 0, to: 10 }, { from: 5, to: 20 }) // { from: 5, to: 10 }
 */
export function overlap(a: Range, b: Range): Range | null {
  const from = Math.max(a.from, b.from) as Instant;
  const to = Math.min(a.to, b.to) as Instant;
  return from < to ? { from, to } : null;
}
