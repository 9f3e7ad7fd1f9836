import { DateTime } from 'luxon';
import { before, dateAfter, dateAt, day, firstInstantAt, range, weekdayOf, type Instant, type Range } from '../time';

/** What a summary is of: a week from Monday on, or a month, by the clocks of a zone. */
export const summaryKinds = ['week', 'month'] as const;
export type SummaryKind = (typeof summaryKinds)[number];

/** Whether a text is a date that a summary can be of: from 2000 on. @example isSummaryDate('1999-12-31') // false */
export const isSummaryDate = (text: string): boolean =>
  /^\d{4}-\d{2}-\d{2}$/.test(text) && DateTime.fromISO(text, { zone: 'UTC' }).isValid && text >= '2000-01-01';

/** The first date of the week or month that a date is in. */
function firstDateOf(kind: SummaryKind, date: string): string {
  return kind === 'week' ? dateAfter(date, 1 - weekdayOf(date)) : `${date.slice(0, 7)}-01`;
}

/** The first date of the week or month that follows the one that begins at a date. */
function nextDateOf(kind: SummaryKind, first: string): string {
  return kind === 'week' ? dateAfter(first, 7) : firstDateOf('month', dateAfter(first, 31));
}

/**
 * The week or month that a date is in.
 *
 * @param date such as `2026-04-29`
 * @example periodWith('week', '2026-04-29', 'Europe/Rome') // from Monday 27 April 00:00 to Monday 4 May 00:00, in Rome
 */
export function periodWith(kind: SummaryKind, date: string, zone: string): Range {
  const first = firstDateOf(kind, date);
  return range(firstInstantAt(first, '00:00', zone), firstInstantAt(nextDateOf(kind, first), '00:00', zone));
}

/** The newest week or month that is over. @example lastWhole('month', at, 'UTC') // April, for any instant in May */
export function lastWhole(kind: SummaryKind, now: Instant, zone: string): Range {
  const { from } = periodWith(kind, dateAt(now, zone), zone);
  return periodBefore(kind, range(from, from), zone);
}

/** The week or month before one. */
export const periodBefore = (kind: SummaryKind, { from }: Range, zone: string): Range =>
  periodWith(kind, dateAt(before(from, day), zone), zone);

/** A week or month as people say it, in English as all sentences of a summary. @example periodTitle('week', period, 'UTC') // '27 April to 3 May 2026' */
export function periodTitle(kind: SummaryKind, { from, to }: Range, zone: string): string {
  const first = DateTime.fromMillis(from, { zone, locale: 'en' });
  if (kind === 'month') return first.toFormat('LLLL yyyy');
  const last = DateTime.fromMillis(to - 1, { zone, locale: 'en' });
  const begin = first.toFormat(first.year !== last.year ? 'd LLLL yyyy' : first.month !== last.month ? 'd LLLL' : 'd');
  return `${begin} to ${last.toFormat('d LLLL yyyy')}`;
}
