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
  const shown = midnightOf(date) + minutesOf(time) * 60_000;
  if (!Number.isFinite(shown)) throw new RangeError(`firstInstantAt: ${date} is not a date`);
  const offsetAt = offsetsOf(zone);
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
  new Date(midnightOf(date) + days * day).toISOString().slice(0, 10);

/** Days from one date to another. @example daysBetween('2026-03-01', '2026-03-08') // 7 */
export const daysBetween = (from: string, to: string): number => Math.round((midnightOf(to) - midnightOf(from)) / day);

/** The weekday of a date, 1 for Monday to 7 for Sunday. @example weekdayOf('2026-11-28') // 6 */
export const weekdayOf = (date: string): number => new Date(midnightOf(date)).getUTCDay() || 7;

/** A date's midnight UTC, ms; NaN for what is no date. */
const midnightOf = (date: string): number => Date.parse(`${date}T00:00:00Z`);

/** Offsets from UTC by zone and quarter of an hour: zones change theirs at quarters only, and looking one up takes thirty times as long as remembering it. */
const remembered = new Map<string, Map<number, number>>();
const [mostZones, mostOffsets, quarter] = [50, 5000, 900_000];

/** The offset of a zone from UTC at instants, ms. */
function offsetsOf(zone: string): (at: number) => number {
  if (!remembered.has(zone) && remembered.size >= mostZones) remembered.clear();
  const known = remembered.get(zone) ?? new Map<number, number>();
  remembered.set(zone, known);
  const clock = IANAZone.create(zone);
  return (at) => {
    const of = Math.floor(at / quarter);
    const found = known.get(of);
    if (found !== undefined) return found;
    if (known.size >= mostOffsets) known.clear();
    const offset = Math.round(clock.offset(of * quarter) * 60_000);
    known.set(of, offset);
    return offset;
  };
}

const minutesOf = (time: string): number => Number(time.slice(0, 2)) * 60 + Number(time.slice(3));
