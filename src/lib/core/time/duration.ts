import { Duration as Iso } from 'luxon';
import type { Instant } from './instant';

declare const durationBrand: unique symbol;

/** A length of time: whole milliseconds, never negative. */
export type Duration = number & { readonly [durationBrand]: 'Duration' };

/**
 * Brands a number of milliseconds as a duration.
 *
 * @throws RangeError when it is negative, broken or not finite
 * @example duration(90_000) // a minute and a half
 */
export function duration(milliseconds: number): Duration {
  if (!Number.isSafeInteger(milliseconds) || milliseconds < 0)
    throw new RangeError(`duration: expected whole milliseconds from 0, got ${milliseconds}`);
  return milliseconds as Duration;
}

export const second = duration(1_000);
export const minute = duration(60_000);
export const hour = duration(3_600_000);
/** Twenty-four hours, whatever the calendar says of a daylight-saving day. */
export const day = duration(86_400_000);

/** @example times(5, minute) // 300000 */
export const times = (count: number, length: Duration): Duration => duration(count * length);

/** @example after(instant(0), minute) // 60000 */
export const after = (at: Instant, length: Duration): Instant => (at + length) as Instant;

/**
 * The instant a duration earlier; the epoch when that lies before it.
 *
 * @example before(instant(90_000), minute) // 30000
 */
export const before = (at: Instant, length: Duration): Instant => Math.max(0, at - length) as Instant;

/**
 * Reads an ISO 8601 duration of weeks, days, hours, minutes and seconds. Months and years have no fixed length and are refused.
 *
 * @throws RangeError naming the text
 * @example durationFromText('PT3H') // 10800000
 */
export function durationFromText(text: string): Duration {
  const read = Iso.fromISO(text);
  if (!read.isValid || read.years || read.quarters || read.months || read.toMillis() <= 0)
    throw new RangeError(
      `durationFromText: expected an ISO 8601 duration of weeks or shorter, such as PT3H, got "${text}"`
    );
  return duration(Math.round(read.toMillis()));
}

/**
 * Writes a duration as ISO 8601, in the largest unit that divides it.
 *
 * @example textFromDuration(duration(10_800_000)) // 'PT3H'
 */
export function textFromDuration(length: Duration): string {
  if (length > 0 && length % day === 0) return `P${length / day}D`;
  if (length > 0 && length % hour === 0) return `PT${length / hour}H`;
  if (length > 0 && length % minute === 0) return `PT${length / minute}M`;
  return `PT${length / second}S`;
}
