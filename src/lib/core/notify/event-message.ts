import { fullMoment, peopleDuration, peopleMoment, type Dates, type Duration } from '../time';
import { askedWhy, openIncident, type IncidentFacts, type Message } from './message';

/** Everything a message says about an incident that events raised. */
export type EventFacts = Omit<IncidentFacts, 'condition' | 'value' | 'peak' | 'unit' | 'what'> & {
  readonly event: string;
};

/**
 * The message of an incident that events raised: its subject says what, where, how bad, and its sentence what the event said.
 *
 * @example eventMessage(facts, 'UTC').subject // 'CRITICAL dorsale-standby: replication stalled since 14:05'
 */
export function eventMessage(facts: EventFacts, zone: Dates): Message {
  const { subject, severity, alarm, event, openedAt, closedAt, writtenAt, ending = '' } = facts;
  const place = [facts.account, facts.region].filter((part) => part !== '').join(', ');
  const where = [
    ['On', subject],
    ...(facts.service ? [['Service', facts.service] as const] : []),
    ...(place === '' ? [] : [['Account', place] as const])
  ] as const;
  const name = lowered(alarm);
  const opened = fullMoment(openedAt, zone);
  if (closedAt === null)
    return {
      subject: `${severity.toUpperCase()} ${subject}: ${name} since ${peopleMoment(openedAt, writtenAt, zone)}${facts.why === 'step' || facts.why === 'repeat' ? ', not acknowledged' : ''}`,
      heading: alarm,
      sentence: `${event}${askedWhy[facts.why ?? 'news']}`,
      rows: [
        ...where,
        ['Since', opened],
        ['Severity', severity],
        ...(facts.nearby ?? []).map(
          ({ at, text }) => ['Before it', `${peopleMoment(at, writtenAt, zone)} ${text}`] as const
        ),
        ...(facts.runbook ? [['Runbook', facts.runbook] as const] : []),
        ...((facts.notified ?? []).length > 1 ? [['Notified', (facts.notified ?? []).join(', ')] as const] : [])
      ],
      link: facts.link,
      linkText: openIncident
    };
  const lasted = peopleDuration((closedAt - openedAt) as Duration);
  return {
    subject: `CLEAR ${subject}: ${name}, after ${lasted}`,
    heading: alarm,
    sentence: `${subject} is clear again after ${lasted}${ending === '' ? '' : `, closed by hand: ${ending}`}. It was raised because: ${event}`,
    rows: [...where, ['Raised', opened], ['Cleared', fullMoment(closedAt, zone)], ['Lasted', lasted]],
    link: facts.link,
    linkText: openIncident
  };
}

/** A name within a sentence: of "OOM kills" nothing is changed. */
const lowered = (name: string): string =>
  /^\p{Lu}\p{Ll}/u.test(name) ? name.charAt(0).toLowerCase() + name.slice(1) : name;
