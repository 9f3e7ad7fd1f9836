import { DateTime } from 'luxon';
import { day, duration, durationFromText, hour, minute, times, type Duration } from './duration';
import type { Instant } from './instant';
import { fixedRange, liveRange, type ShownRange } from './shown-range';

/** A range that was typed, or why it cannot be read, in words. */
export type TypedRange =
  { readonly kind: 'read'; readonly range: ShownRange } | { readonly kind: 'unreadable'; readonly why: string };

const examples = 'Write for example “last 3 h”, “PT90M”, “2026-05-04 08:00 to 10:00” or “yesterday”.';

const lengths: readonly (readonly [RegExp, Duration])[] = [
  [/^(m|min|mins|minute|minutes)$/, minute],
  [/^(h|hour|hours)$/, hour],
  [/^(d|day|days)$/, day],
  [/^(w|week|weeks)$/, times(7, day)]
];

/**
 * Reads a range as people write it: a length up to now (“last 3 h”, “90 min”, “last week”, an ISO 8601 duration), from one moment to another (“2026-05-04 08:00 to
 * 10:00”, “08:00 to now”), or a day (“today”, “yesterday”, “2026-05-04”). Days and clock times are those of the zone; on the day that clocks are changed a day is as long as
 * it is there.
 *
 * @param now to which “now”, “today” and a clock time without a day refer
 * @example typedRange('last 3 h', now, 'UTC') // { kind: 'read', range: { kind: 'live', length: 10800000 } }
 */
export function typedRange(text: string, now: Instant, zone: string): TypedRange {
  const plain = text.trim().replace(/\s+/g, ' ').toLowerCase();
  try {
    const range = lengthOf(plain) ?? dayOf(plain, now, zone) ?? spanOf(plain, now, zone);
    return range === null ? { kind: 'unreadable', why: examples } : { kind: 'read', range };
  } catch (error) {
    if (!(error instanceof RangeError)) throw error;
    return { kind: 'unreadable', why: 'A range is 1 minute to 400 days long, and its end is after its start.' };
  }
}

function lengthOf(text: string): ShownRange | null {
  if (/^p[\dt]/.test(text)) return isoLength(text.toUpperCase());
  const [, count = '1', unit = ''] = /^(?:last )?(?:(\d+(?:\.\d+)?) ?)?([a-z]+)$/.exec(text) ?? [];
  const found = lengths.find(([names]) => names.test(unit));
  const isCounted = /\d/.test(text) || text.startsWith('last ');
  return found && isCounted ? liveRange(duration(Math.round(Number(count) * found[1]))) : null;
}

function isoLength(text: string): ShownRange | null {
  let length: Duration;
  try {
    length = durationFromText(text);
  } catch (error) {
    if (error instanceof RangeError) return null;
    throw error;
  }
  return liveRange(length);
}

function dayOf(text: string, now: Instant, zone: string): ShownRange | null {
  const today = DateTime.fromMillis(now, { zone }).startOf('day');
  const begin =
    text === 'today'
      ? today
      : text === 'yesterday'
        ? today.minus({ days: 1 })
        : /^\d{4}-\d\d-\d\d$/.test(text)
          ? DateTime.fromISO(text, { zone })
          : null;
  if (begin === null || !begin.isValid) return null;
  const end = begin.plus({ days: 1 }).toMillis();
  return fixedRange(
    begin.toMillis() as Instant,
    (text === 'today' ? Math.min(end, Math.max(now, begin.toMillis() + 60_000)) : end) as Instant
  );
}

function spanOf(text: string, now: Instant, zone: string): ShownRange | null {
  const [, first, last] = /^(.+?) (?:to|until|–) (.+)$/.exec(text) ?? [];
  if (first === undefined || last === undefined) return null;
  const from = momentOf(first, DateTime.fromMillis(now, { zone }), zone);
  if (from === null) return null;
  const to = last === 'now' ? DateTime.fromMillis(now, { zone }) : momentOf(last, from, zone);
  return to === null ? null : fixedRange(from.toMillis() as Instant, to.toMillis() as Instant);
}

/** A date and time; a clock time alone is of the day of another moment. */
function momentOf(text: string, ofDay: DateTime, zone: string): DateTime | null {
  const [, clock] = /^(\d{1,2}:\d\d(?::\d\d)?)$/.exec(text) ?? [];
  const read =
    clock === undefined
      ? DateTime.fromISO(text.toUpperCase().replace(' ', 'T'), { zone })
      : DateTime.fromISO(
          `${ofDay.toISODate() ?? ''}T${clock.padStart(clock.length === 4 || clock.length === 7 ? clock.length + 1 : clock.length, '0')}`,
          { zone }
        );
  return read.isValid ? read : null;
}
