import ICAL from 'ical.js';
import { DateTime } from 'luxon';
import type { Instant, Range } from '../time';

/** Occurrences that are gone through to find one: a rule that yields none would never end. */
const mostSteps = 20_000;

const noRule = 'This is no recurrence by RFC 5545, such as FREQ=WEEKLY;BYDAY=SU.';

/** Why a recurrence cannot be used, in a sentence; null when it can. @example recurrenceProblem('FREQ=WEEKLY') // null */
export function recurrenceProblem(rule: string): string | null {
  try {
    const { freq } = ICAL.Recur.fromString(rule);
    if (['SECONDLY', 'MINUTELY', 'HOURLY'].includes(freq)) return 'It has to recur daily, weekly, monthly or yearly.';
    return ['DAILY', 'WEEKLY', 'MONTHLY', 'YEARLY'].includes(freq) ? null : noRule;
  } catch {
    return noRule;
  }
}

/** A span that may recur. */
export interface Recurring extends Range {
  /** By RFC 5545; null for once. */
  readonly recurs: string | null;
  /** By whose clocks it recurs. */
  readonly zone: string;
}

/**
 * The occurrence that is under way at an instant, or else the next one. Occurrences begin at the same time of the clocks of the zone and last equally long.
 *
 * @returns null when none is under way and none follows
 * @example occurrenceAt({ from, to, recurs: null, zone: 'UTC' }, before) // { from, to }
 */
export function occurrenceAt({ from, to, recurs, zone }: Recurring, at: Instant): Range | null {
  const length = to - from;
  if (recurs === null) return to > at ? { from, to } : null;
  const begin = DateTime.fromMillis(from, { zone });
  const { year, month, day, hour, minute, second } = begin;
  const start = new ICAL.Time({ year, month, day, hour, minute, second, isDate: false }, ICAL.Timezone.localTimezone);
  const iterator = ICAL.Recur.fromString(recurs).iterator(start);
  for (let step = 0, next = iterator.next(); next && step < mostSteps; step++, next = iterator.next()) {
    const one = { year: next.year, month: next.month, day: next.day, hour: next.hour, minute: next.minute };
    const first = DateTime.fromObject({ ...one, second: next.second }, { zone }).toMillis() as Instant;
    if (first + length > at) return { from: first, to: (first + length) as Instant };
  }
  return null;
}

/** Whether a shelving is in force at an instant. @example isInForce({ from, to, recurs: null, zone: 'UTC' }, from) // true */
export function isInForce(shelving: Recurring, at: Instant): boolean {
  const occurrence = occurrenceAt(shelving, at);
  return occurrence !== null && occurrence.from <= at;
}

/** When a shelving begins or ends next; null when it is over. @example nextChange({ from, to, recurs: null, zone: 'UTC' }, from) // to */
export function nextChange(shelving: Recurring, at: Instant): Instant | null {
  const occurrence = occurrenceAt(shelving, at);
  if (occurrence === null) return null;
  return occurrence.from > at ? occurrence.from : occurrence.to;
}

/**
 * The occurrences that touch a span, in order.
 *
 * @param most of them: those beyond are left out
 * @example occurrencesIn({ from, to, recurs: null, zone: 'UTC' }, { from, to }, 10) // [{ from, to }]
 */
export function occurrencesIn(shelving: Recurring, span: Range, most: number): Range[] {
  const found: Range[] = [];
  for (let at = span.from; found.length < most;) {
    const occurrence = occurrenceAt(shelving, at);
    if (occurrence === null || occurrence.from >= span.to) break;
    found.push(occurrence);
    at = occurrence.to;
  }
  return found;
}
