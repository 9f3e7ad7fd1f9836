import type { Duration, Instant } from '../time';

/** What is known of the arrival of one series. */
export interface Arrival {
  readonly now: Instant;
  /** Start of its newest sample, null when it has none. */
  readonly newest: Instant | null;
  readonly sampling: Duration;
  /** The longest time from the end of a sampling interval to its sample being there, as declared. */
  readonly delay: Duration;
  /** Everything up to here has been requested; null when nothing has. */
  readonly askedUntil: Instant | null;
  /** Whether asking fails at present. */
  readonly failing: boolean;
}

/** While asking fails, or nobody sends anything, a cell this old counts as missing: silence must not be read as "all well". */
export const silenceAfter = 300_000 as Duration;

/**
 * Up to where the cells of a series are complete: their samples are there, or will not come any more. That is the latest of
 * (1) the end of the newest sample's interval, (2) what has been requested less the declared delay, (3) while asking fails, five minutes ago;
 * never after now, and cut down to whole cells.
 *
 * @example
 * completeUntil({ now: 600e3, newest: 480e3, sampling: 60e3, delay: 50e3, askedUntil: 590e3, failing: false }, 60e3) // 540000
 */
export function completeUntil({ now, newest, sampling, delay, askedUntil, failing }: Arrival, step: Duration): Instant {
  const bounds = [
    newest === null ? 0 : newest + sampling,
    askedUntil === null ? 0 : Math.min(askedUntil, now) - delay,
    failing ? now - silenceAfter : 0
  ];
  const latest = Math.min(now, Math.max(0, ...bounds));
  return (Math.floor(latest / step) * step) as Instant;
}
