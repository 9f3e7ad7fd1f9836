import { DateTime } from 'luxon';
import { day, hour, minute, second, type Duration } from './duration';
import type { Instant } from './instant';

/**
 * A moment as a person writes it: the clock time today, with the weekday within six days, with the date beyond.
 *
 * @param zone an IANA zone, the reader's
 * @example peopleMoment(instant(1777881600000), instant(1777890000000), 'UTC') // '08:00'
 */
export function peopleMoment(at: Instant, now: Instant, zone: string): string {
  const local = DateTime.fromMillis(at, { zone, locale: 'en' });
  const today = DateTime.fromMillis(now, { zone });
  if (local.hasSame(today, 'day')) return local.toFormat('HH:mm');
  if (Math.abs(now - at) < 6 * day) return local.toFormat('ccc HH:mm');
  return local.toFormat(local.year === today.year ? 'd LLL HH:mm' : 'd LLL yyyy HH:mm');
}

/** How long ago a moment was, or how long until it comes. @example peopleAge(instant(0), instant(5_400_000)) // '1 h 30 min ago' */
export const peopleAge = (at: Instant, now: Instant): string =>
  at <= now
    ? now - at < 1000
      ? 'now'
      : `${peopleDuration((now - at) as Duration)} ago`
    : `in ${peopleDuration((at - now) as Duration)}`;

/** The day of a moment, with its year. @example peopleDay(instant(1777881600000), 'UTC') // 'Mon 4 May 2026' */
export const peopleDay = (at: Instant, zone: string): string =>
  DateTime.fromMillis(at, { zone, locale: 'en' }).toFormat('ccc d LLL yyyy');

/**
 * The exact instant in a zone, for hovering and copying.
 *
 * @example exactMoment(instant(0), 'UTC') // '1970-01-01 00:00:00 +00:00'
 */
export const exactMoment = (at: Instant, zone: string): string =>
  DateTime.fromMillis(at, { zone }).toFormat('yyyy-MM-dd HH:mm:ss ZZ');

const unitsOfTime: readonly (readonly [Duration, string])[] = [
  [day, 'd'],
  [hour, 'h'],
  [minute, 'min'],
  [second, 's']
];

/**
 * A length of time in its largest units, rounded down.
 *
 * @param parts how many units at most
 * @example peopleDuration(duration(5_400_000)) // '1 h 30 min'
 */
export function peopleDuration(length: Duration, parts = 2): string {
  const largest = unitsOfTime.findIndex(([size]) => length >= size);
  if (largest === -1) return '0 s';
  const spoken: string[] = [];
  let rest: number = length;
  for (const [size, name] of unitsOfTime.slice(largest, largest + parts)) {
    const whole = Math.floor(rest / size);
    rest -= whole * size;
    if (whole > 0) spoken.push(`${whole} ${name}`);
  }
  return spoken.join(' ');
}

/**
 * A length of time in words, for a sentence that people read.
 *
 * @example spokenDuration(duration(10_800_000)) // '3 hours'
 */
export function spokenDuration(length: Duration): string {
  const names: readonly (readonly [Duration, string])[] = [
    [day, 'day'],
    [hour, 'hour'],
    [minute, 'minute'],
    [second, 'second']
  ];
  const [size, name] = names.find(([unit]) => length >= unit && length % unit === 0) ?? [second, 'second'];
  const count = Math.round((length / size) * 10) / 10;
  return count === 1 ? `1 ${name}` : `${count} ${name}s`;
}
