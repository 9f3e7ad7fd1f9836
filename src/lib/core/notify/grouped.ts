import { comparedText, limitOf, severityBalls } from '../alarm';
import { peopleDuration, peopleMoment, type Dates, type Duration, type Instant } from '../time';
import type { GroupedIncident, Message, Writing } from './message';

/** What a message about several incidents says. */
export interface GroupedFacts {
  readonly why: 'news' | 'step' | 'repeat' | 'digest';
  readonly together: string;
  readonly incidents: readonly GroupedIncident[];
  /** How many there are besides, and how many of these are clear or closed. */
  readonly more: number;
  readonly moreClear?: number;
  readonly moreClosed?: number;
}

/** Incidents that the subject names. */
const namedInSubject = 2;

/**
 * The message about several incidents that belong together: how many, how bad, which.
 *
 * @example groupedMessage(facts, { zone: 'UTC', now, origin }).subject // 'MAJOR 3 raised on Machines: booking-web-2, gate-api-1 and 1 more'
 */
export function groupedMessage(facts: GroupedFacts, { zone, now, origin }: Writing): Message {
  const { why, together, incidents, more } = facts;
  const counts = countsOf(facts);
  const sorted = incidents.toSorted((a, b) => gravity(b) - gravity(a));
  const gravest = sorted.find(({ news }) => news === 'raised')?.severity.toUpperCase();
  const place = together === '' ? '' : ` on ${together}`;
  const counted = countedText(counts);
  const names = [...new Set(sorted.map(({ subject }) => subject))];
  const named = names.slice(0, namedInSubject);
  const others = names.length - named.length + more;
  const notAcknowledged = why === 'step' || why === 'repeat' ? ', not acknowledged' : '';
  return {
    subject: `${gravest ?? (counts.clear > 0 ? 'CLEAR' : 'CLOSED')} ${counted}${place}: ${named.join(', ')}${others > 0 ? ` and ${others} more` : ''}${notAcknowledged}`,
    heading: `${counted}${place}`,
    sentence: sentences[why],
    rows: [
      ...sorted.map((incident) => [incident.subject, lineOf(incident, zone, now)] as const),
      ...(more > 0 ? [['And', `${more} more`] as const] : [])
    ],
    link: `${origin}/incidents`,
    linkText: 'Open the incidents in Bussola'
  };
}

const sentences = {
  news: 'These came up together.',
  digest: 'What came up since the last digest.',
  step: 'Nobody who was notified before has acknowledged these.',
  repeat: 'Nobody has acknowledged these yet.'
} as const;

/**
 * By what the incidents of a message are put in order, the highest first: the gravest that is raised, and last what is over.
 *
 * @example gravity({ news: 'cleared', severity: 'critical' }) < gravity({ news: 'raised', severity: 'warning' }) // true
 */
export const gravity = ({ news, severity }: Pick<GroupedIncident, 'news' | 'severity'>): number =>
  (news === 'raised' ? 10 : 0) + severityBalls(severity);

/** How many of the incidents of a message are raised, clear and closed by a person, with those that are not named. */
function countsOf({ incidents, more, moreClear = 0, moreClosed = 0 }: GroupedFacts) {
  const named = (wanted: (news: GroupedIncident['news']) => boolean) =>
    incidents.filter(({ news }) => wanted(news)).length;
  return {
    raised: named((news) => news === 'raised') + more - moreClear - moreClosed,
    clear: named((news) => news === 'cleared' || news === 'passed') + moreClear,
    closed: named((news) => news === 'dismissed') + moreClosed
  };
}

const countedText = ({ raised, clear, closed }: ReturnType<typeof countsOf>): string =>
  [
    ...(raised > 0 ? [`${raised} raised`] : []),
    ...(clear > 0 ? [`${clear} clear`] : []),
    ...(closed > 0 ? [`${closed} closed`] : [])
  ].join(', ');

function lineOf(incident: GroupedIncident, zone: Dates, now: Instant): string {
  const { news, severity, what, value, unit, condition, openedAt, closedAt } = incident;
  if (news === 'dismissed') return `closed while raised, ${incident.ending}: ${incident.alarm}`;
  if (news !== 'raised') {
    const lasted = peopleDuration(((closedAt ?? openedAt) - openedAt) as Duration);
    return `clear after ${lasted}: ${incident.alarm}`;
  }
  if (condition === null) return `${severity}: ${incident.event} since ${peopleMoment(openedAt, now, zone)}`;
  const shown = comparedText(condition, value ?? NaN, unit);
  return `${severity}: ${what.toLowerCase()} ${shown} (${limitOf(condition, unit)}) since ${peopleMoment(openedAt, now, zone)}`;
}
