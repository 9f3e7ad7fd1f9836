import { DateTime, IANAZone } from 'luxon';
import { day } from './duration';
import type { Instant } from './instant';

/**
 * The first instant at which the clocks of a zone show a time of a day, or a later one. A time that is skipped when clocks are set forward is the instant of that change; one that comes twice
 * when they are set back is its first.
 *
 * @param date such as `2026-03-29`
 * @param time from `00:00` to `24:00`
 * @example firstInstantAt('2026-03-29', '02:30', 'Europe/Rome') // 1774746000000: 03:00 there, since 02:00 to 03:00 is skipped
 */
export function firstInstantAt(date: string, time: string, zone: string): Instant {
  const shown = DateTime.fromISO(date, { zone: 'UTC' }).toMillis() + minutesOf(time) * 60_000;
  if (!Number.isFinite(shown)) throw new RangeError(`firstInstantAt: ${date} is not a date`);
  const known = IANAZone.create(zone);
  const offsetAt = (at: number) => Math.round(known.offset(at) * 60_000);
  const [before, after] = [offsetAt(shown - 1.5 * day), offsetAt(shown + 1.5 * day)];
  const exact = [before, after].map((offset) => shown - offset).filter((at) => at + offsetAt(at) === shown);
  if (exact.length > 0) return Math.min(...exact) as Instant;
  // Skipped: the clocks jump over it somewhere between these, from before it to after it.
  let [low, high] = [shown - Math.max(before, after), shown - Math.min(before, after)];
  while (high - low > 1) {
    const middle = Math.floor((low + high) / 2);
    if (middle + offsetAt(middle) < shown) low = middle;
    else high = middle;
  }
  return high as Instant;
}

/** The date that the calendars of a zone show. @example dateAt(instant(0), 'Europe/Rome') // '1970-01-01' */
export const dateAt = (at: Instant, zone: string): string => DateTime.fromMillis(at, { zone }).toFormat('yyyy-MM-dd');

/** The date so many days after another. @example dateAfter('2028-02-28', 1) // '2028-02-29' */
export const dateAfter = (date: string, days: number): string =>
  DateTime.fromISO(date, { zone: 'UTC' }).plus({ days }).toFormat('yyyy-MM-dd');

/** Days from one date to another. @example daysBetween('2026-03-01', '2026-03-08') // 7 */
export const daysBetween = (from: string, to: string): number =>
  Math.round(
    (DateTime.fromISO(to, { zone: 'UTC' }).toMillis() - DateTime.fromISO(from, { zone: 'UTC' }).toMillis()) / day
  );

/** The weekday of a date, 1 for Monday to 7 for Sunday. @example weekdayOf('2026-11-28') // 6 */
export const weekdayOf = (date: string): number => DateTime.fromISO(date, { zone: 'UTC' }).weekday;

const minutesOf = (time: string): number => Number(time.slice(0, 2)) * 60 + Number(time.slice(3));
