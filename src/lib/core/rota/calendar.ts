import ICAL from 'ical.js';
import { DateTime } from 'luxon';
import { isZone, type Instant, type Range } from '../time';

/** One entry of a calendar. */
export interface CalendarEntry extends Range {
  /** The same as long as it is the same entry: programs tell by it what was changed. */
  readonly uid: string;
  readonly summary: string;
}

/**
 * A calendar by RFC 5545, its times in UTC.
 *
 * @param now when it is written
 * @example calendarText('Data', [{ uid: 'rota-3-1796000000000', summary: 'Data: Nerea Olmo', from, to }], now).split('\r\n')[0] // 'BEGIN:VCALENDAR'
 */
export function calendarText(name: string, entries: readonly CalendarEntry[], now: Instant): string {
  const calendar = new ICAL.Component('vcalendar');
  calendar.updatePropertyWithValue('version', '2.0');
  calendar.updatePropertyWithValue('prodid', '-//Bussola//Rotas//EN');
  // RFC 7986
  calendar.updatePropertyWithValue('name', name);
  for (const { uid, summary, from, to } of entries) {
    const event = new ICAL.Component('vevent');
    event.updatePropertyWithValue('uid', uid);
    event.updatePropertyWithValue('summary', summary);
    event.updatePropertyWithValue('dtstamp', timeOf(now));
    event.updatePropertyWithValue('dtstart', timeOf(from));
    event.updatePropertyWithValue('dtend', timeOf(to));
    calendar.addSubcomponent(event);
  }
  return calendar.toString();
}

const timeOf = (at: Instant): ICAL.Time => ICAL.Time.fromJSDate(new Date(at), true);

/** One occurrence that a calendar has. */
export interface Occurrence extends Range {
  readonly summary: string;
  /** Names and addresses of whoever is named in it, in lower case. */
  readonly who: readonly string[];
}

/** What was read of a calendar, or why it cannot be read, in a sentence. */
export type ReadCalendar =
  | { readonly kind: 'read'; readonly occurrences: readonly Occurrence[] }
  | { readonly kind: 'unreadable'; readonly message: string };

/** Characters that a calendar may have, entries, and occurrences that are read. */
const [longest, mostEntries, mostOccurrences] = [1_000_000, 2000, 2000];
/** Occurrences of one entry that are gone through: one that repeats each second would never come to an end. */
const mostSteps = 20_000;

/**
 * Reads what a calendar has within a range: recurrences are counted out, times are those of its zones. Where it names a zone without describing it, the zone of that name counts; times without a zone are those of a given one.
 *
 * @param zone of times that have none
 * @example readCalendar('BEGIN:VCALENDAR…', week, 'Europe/Rome') // { kind: 'read', occurrences: [{ from, to, summary: 'Ivo Brandt', who: [] }] }
 */
export function readCalendar(text: string, within: Range, zone: string): ReadCalendar {
  if (text.length > longest) return unreadable(`It has more than ${longest / 1_000_000} MB.`);
  let calendar: ICAL.Component;
  try {
    calendar = new ICAL.Component(ICAL.parse(text) as never);
  } catch (error) {
    return unreadable(`It is no iCalendar file: ${(error as Error).message}.`);
  }
  if (calendar.name !== 'vcalendar') return unreadable('It is no iCalendar file: it does not begin with VCALENDAR.');
  const entries = calendar.getAllSubcomponents('vevent');
  if (entries.length > mostEntries)
    return unreadable(`It has ${entries.length} entries; at most ${mostEntries} are read.`);
  const occurrences: Occurrence[] = [];
  try {
    for (const entry of entries) {
      const event = new ICAL.Event(entry);
      if (event.isRecurrenceException() || entry.getFirstPropertyValue('status') === 'CANCELLED') continue;
      occurrences.push(...occurrencesOf(event, within, zone));
      if (occurrences.length > mostOccurrences)
        return unreadable(`It has more than ${mostOccurrences} occurrences in that time.`);
    }
  } catch (error) {
    return unreadable(`An entry of it cannot be read: ${(error as Error).message}.`);
  }
  return { kind: 'read', occurrences: occurrences.sort((a, b) => a.from - b.from) };
}

function occurrencesOf(event: ICAL.Event, within: Range, zone: string): Occurrence[] {
  const found: Occurrence[] = [];
  const named = event.component.getFirstProperty('dtstart')?.getParameter('tzid');
  const own = typeof named === 'string' && isZone(named) ? named : zone;
  const take = (item: ICAL.Event, start: ICAL.Time, end: ICAL.Time) => {
    const [from, to] = [instantOf(start, own), instantOf(end, own)];
    if (to > from && to > within.from && from < within.to)
      found.push({ from, to, summary: item.summary ?? '', who: whoIn(item) });
    return from;
  };
  if (!event.isRecurring()) {
    take(event, event.startDate, event.endDate);
    return found;
  }
  const iterator = event.iterator();
  for (let step = 0, next = iterator.next(); next && step < mostSteps; step++, next = iterator.next()) {
    const { item, startDate, endDate } = event.getOccurrenceDetails(next);
    if (take(item, startDate, endDate) >= within.to || found.length > mostOccurrences) break;
  }
  return found;
}

/** When a time is: one that floats, since its zone is not described, is of a zone by its name. */
function instantOf(time: ICAL.Time, zone: string): Instant {
  if (time.zone !== ICAL.Timezone.localTimezone) return time.toJSDate().getTime() as Instant;
  const { year, month, day, hour, minute, second } = time;
  return DateTime.fromObject({ year, month, day, hour, minute, second }, { zone }).toMillis() as Instant;
}

/** Names and addresses of an entry: of those who attend, and of whoever organises it. */
const whoIn = (event: ICAL.Event): string[] =>
  [...event.attendees, ...event.component.getAllProperties('organizer')].flatMap((one) => {
    const value = String(one.getFirstValue() ?? '').replace(/^mailto:/i, '');
    const name = one.getParameter('cn');
    return [value, ...(typeof name === 'string' ? [name] : [])].map((text) => text.trim().toLowerCase());
  });

const unreadable = (message: string): ReadCalendar => ({ kind: 'unreadable', message });
