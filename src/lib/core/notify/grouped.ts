import { comparedText, limitOf, severityBalls, type Severity } from '../alarm';
import { peopleDuration, peopleMoment, type Dates, type Duration, type Instant } from '../time';
import type { GroupedIncident, Message, Writing } from './message';

/** What a message about several incidents says. */
export interface GroupedFacts {
  readonly why: 'news' | 'step' | 'repeat' | 'digest';
  readonly together: string;
  readonly incidents: readonly GroupedIncident[];
  readonly more: number;
}

/** Incidents that the subject names. */
const namedInSubject = 2;

/**
 * The message about several incidents that belong together: how many, how bad, which.
 *
 * @example groupedMessage(facts, { zone: 'UTC', now, origin }).subject // 'MAJOR 3 raised on Machines: booking-web-2, gate-api-1 and 1 more'
 */
export function groupedMessage(
  { why, together, incidents, more }: GroupedFacts,
  { zone, now, origin }: Writing
): Message {
  const raised = incidents.filter(({ news }) => news === 'raised');
  const sorted = incidents.toSorted((a, b) => rank(b) - rank(a));
  const gravest = raised.reduce<Severity | null>(
    (most, { severity }) => (most === null || severityBalls(severity) > severityBalls(most) ? severity : most),
    null
  );
  const place = together === '' ? '' : ` on ${together}`;
  const counted = countedText(incidents, more);
  const names = [...new Set(sorted.map(({ subject }) => subject))];
  const others = names.length - namedInSubject + more;
  const named = names.slice(0, namedInSubject).join(', ');
  const notAcknowledged = why === 'step' || why === 'repeat' ? ', not acknowledged' : '';
  return {
    subject: `${gravest === null ? 'CLEAR' : gravest.toUpperCase()} ${counted}${place}: ${named}${others > 0 ? ` and ${others} more` : ''}${notAcknowledged}`,
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

/** The gravest that is raised first, what is clear last. */
const rank = ({ news, severity }: GroupedIncident): number => (news === 'raised' ? 10 : 0) + severityBalls(severity);

/** How many are raised and how many are clear; those that are not named count as raised. */
function countedText(incidents: readonly GroupedIncident[], more: number): string {
  const raised = incidents.filter(({ news }) => news === 'raised').length + more;
  const closed = incidents.filter(({ news }) => news === 'dismissed').length;
  const clear = incidents.length + more - raised - closed;
  return [
    ...(raised > 0 ? [`${raised} raised`] : []),
    ...(clear > 0 ? [`${clear} clear`] : []),
    ...(closed > 0 ? [`${closed} closed`] : [])
  ].join(', ');
}

function lineOf(incident: GroupedIncident, zone: Dates, now: Instant): string {
  const { news, severity, what, value, unit, condition, openedAt, closedAt } = incident;
  if (news === 'dismissed') return `closed while raised, ${incident.ending}: ${incident.alarm}`;
  if (news !== 'raised') {
    const lasted = peopleDuration(((closedAt ?? openedAt) - openedAt) as Duration);
    return `clear after ${lasted}: ${incident.alarm}`;
  }
  const shown = comparedText(condition, value ?? NaN, unit);
  return `${severity}: ${what.toLowerCase()} ${shown} (${limitOf(condition, unit)}) since ${peopleMoment(openedAt, now, zone)}`;
}
