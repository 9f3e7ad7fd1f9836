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
export function completeUntil(arrival: Arrival, step: Duration): Instant {
  const { now, newest, sampling } = arrival;
  const reached = newest === null ? 0 : newest + sampling;
  return wholeCells(Math.max(reached, nothingMore(arrival)), now, step);
}

/**
 * Up to where a gap of a series is final: what is missing there will not come any more. A newer sample does not make it so, since samples may come out of order within the declared delay.
 *
 * @example gapsFinalUntil({ now: 600e3, newest: 480e3, sampling: 60e3, delay: 50e3, askedUntil: 530e3, failing: false }, 60e3) // 480000
 */
export const gapsFinalUntil = (arrival: Arrival, step: Duration): Instant =>
  wholeCells(nothingMore(arrival), arrival.now, step);

const nothingMore = ({ now, delay, askedUntil, failing }: Arrival): number =>
  Math.max(askedUntil === null ? 0 : Math.min(askedUntil, now) - delay, failing ? now - silenceAfter : 0);

const wholeCells = (until: number, now: Instant, step: Duration): Instant =>
  (Math.floor(Math.min(now, Math.max(0, until)) / step) * step) as Instant;
