import { DateTime } from 'luxon';
import { day, hour, minute, second, type Duration } from './duration';
import type { Instant } from './instant';

/** Languages in which dates are written. */
export const dateLocales = {
  en: 'English, 24 hours (Tue 14:05)',
  'en-US': 'English, 12 hours (Tue 2:05 PM)',
  de: 'Deutsch (Di., 14:05)',
  es: 'español (mar, 14:05)',
  fr: 'français (mar. 14:05)',
  it: 'italiano (mar 14:05)',
  nl: 'Nederlands (di 14:05)',
  pt: 'português (ter., 14:05)',
  sv: 'svenska (tis 14:05)'
} as const;
export type DateLocale = keyof typeof dateLocales;
export const isDateLocale = (text: string): text is DateLocale => Object.hasOwn(dateLocales, text);

/** How somebody reads dates: an IANA zone, and a language, which is English where none is said. */
export type Dates = string | { readonly zone: string; readonly locale: DateLocale };
const zoneIn = (dates: Dates): string => (typeof dates === 'string' ? dates : dates.zone);
const localeIn = (dates: Dates): DateLocale => (typeof dates === 'string' ? 'en' : dates.locale);

/** Hours of a clock with 24 have two digits, so that times stand below each other. */
const clockIn = (locale: DateLocale) =>
  ({ hour: locale === 'en-US' ? 'numeric' : '2-digit', minute: '2-digit' }) as const;

/**
 * A moment as a person writes it: the clock time today, with the weekday within six days, with the date beyond.
 *
 * @param dates the reader's zone and language
 * @example peopleMoment(instant(1777881600000), instant(1777890000000), 'UTC') // '08:00'
 */
export function peopleMoment(at: Instant, now: Instant, dates: Dates): string {
  const [zone, locale] = [zoneIn(dates), localeIn(dates)];
  const local = DateTime.fromMillis(at, { zone, locale });
  const today = DateTime.fromMillis(now, { zone });
  const isNear = Math.abs(now - at) < 6 * day;
  const isThisYear = local.year === today.year;
  const isToday = isThisYear && local.ordinal === today.ordinal;
  if (locale !== 'en') {
    const clock = clockIn(locale);
    if (isToday) return local.toLocaleString(clock);
    if (isNear) return local.toLocaleString({ weekday: 'short', ...clock });
    return local.toLocaleString({ day: 'numeric', month: 'short', ...(!isThisYear && { year: 'numeric' }), ...clock });
  }
  if (isToday) return local.toFormat('HH:mm');
  if (isNear) return local.toFormat('ccc HH:mm');
  return local.toFormat(isThisYear ? 'd LLL HH:mm' : 'd LLL yyyy HH:mm');
}

/**
 * A moment with its date, to the second, and how far the clocks are from UTC.
 *
 * @example fullMoment(instant(0), { zone: 'UTC', locale: 'de' }) // '1. Jan. 1970, 00:00:00 +00:00'
 */
export function fullMoment(at: Instant, dates: Dates): string {
  const locale = localeIn(dates);
  if (locale === 'en') return exactMoment(at, zoneIn(dates));
  const local = DateTime.fromMillis(at, { zone: zoneIn(dates), locale });
  return `${local.toLocaleString({ day: 'numeric', month: 'short', year: 'numeric', ...clockIn(locale), second: '2-digit' })} ${local.toFormat('ZZ')}`;
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

/** The day of a moment with its year. @example peopleDateOfYear(instant(1777881600000), 'UTC') // '4 May 2026' */
export function peopleDateOfYear(at: Instant, dates: Dates): string {
  const [zone, locale] = [zoneIn(dates), localeIn(dates)];
  const local = DateTime.fromMillis(at, { zone, locale });
  return locale === 'en'
    ? local.toFormat('d LLL yyyy')
    : local.toLocaleString({ day: 'numeric', month: 'short', year: 'numeric' });
}

/** The day of a moment within its year. @example peopleDate(instant(1777881600000), 'UTC') // '4 May' */
export function peopleDate(at: Instant, dates: Dates): string {
  const [zone, locale] = [zoneIn(dates), localeIn(dates)];
  const local = DateTime.fromMillis(at, { zone, locale });
  return locale === 'en' ? local.toFormat('d LLL') : local.toLocaleString({ day: 'numeric', month: 'short' });
}

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
