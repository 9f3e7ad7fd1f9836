import { fullMoment, peopleDuration, peopleMoment, type Dates, type Duration, type Instant } from '../time';
import { comparedText, conditionIn, limitOf, type Condition, type Severity } from '../alarm';

/** What a message is written for. */
export interface Writing {
  /** How the reader reads dates. */
  readonly zone: Dates;
  /** When it is written: a time of another day names its day. */
  readonly now: Instant;
  /** Bussola's own address. */
  readonly origin: string;
  /** Where whoever receives it acknowledges what is raised; none where nothing is to be acknowledged. */
  readonly acknowledge?: string;
}

/** What a message about several incidents says of each. */
export interface GroupedIncident {
  /** Passed is one that was raised and cleared before anybody could be notified, dismissed one that a person closed while it was raised. */
  readonly news: 'raised' | 'cleared' | 'passed' | 'dismissed';
  readonly incidentId: number;
  readonly alarm: string;
  readonly severity: Severity;
  /** What it is on: a resource, or the labels of what several make. */
  readonly subject: string;
  /** Where it is; empty for what is not in one place. */
  readonly account: string;
  readonly region: string;
  /** What is watched, such as the metric's title. */
  readonly what: string;
  readonly unit: string;
  /** What it was judged by; null of what events raised. */
  readonly condition: Condition | null;
  /** What the event said that raised it; empty for none. */
  readonly event: string;
  readonly openedAt: Instant;
  /** Null while it is raised. */
  readonly closedAt: Instant | null;
  readonly value: number | null;
  readonly peak: number | null;
  /** The key of its service; empty for none. */
  readonly service: string;
  readonly runbook: string;
  /** How it ended, as whoever closed it says; empty for what nobody closed. */
  readonly ending: string;
}

/** Everything a message about an incident says. */
export interface IncidentFacts extends Omit<
  GroupedIncident,
  'news' | 'incidentId' | 'value' | 'peak' | 'service' | 'runbook' | 'ending' | 'condition' | 'event'
> {
  readonly condition: Condition;
  /** Why the message is sent; by default, that it is new. */
  readonly why?: 'news' | 'step' | 'repeat' | 'digest';
  /** When the message is written: a time of another day than this names its day. */
  readonly writtenAt: Instant;
  /** The value of the cell it was decided on; NaN when that cell was a gap. */
  readonly value: number;
  readonly peak: number;
  readonly link: string;
  /** The title of its service; empty for none. */
  readonly service?: string;
  readonly runbook?: string;
  readonly ending?: string;
  /** What changed near it before it was raised. */
  readonly nearby?: readonly { readonly at: Instant; readonly text: string }[];
  /** Everybody who is notified by this message. */
  readonly notified?: readonly string[];
}

export interface Message {
  readonly subject: string;
  /** Heading, then what happened in one sentence. */
  readonly heading: string;
  readonly sentence: string;
  /** Name and value, in reading order. */
  readonly rows: readonly (readonly [string, string])[];
  readonly link: string;
  readonly linkText: string;
  /** A page with one button by which the reader acknowledges what it is about; none where nothing is to be acknowledged. */
  readonly acknowledge?: string;
  /** A page with one button by which the reader leaves the topic that it was sent to; none where there is nothing to leave. */
  readonly leave?: string;
}

/**
 * The message of an incident: raised while `closedAt` is null, cleared after. The subject alone says what, where, how bad.
 *
 * @param zone how the reader reads dates
 * @example incidentMessage(facts, 'UTC').subject // 'MAJOR booking-web-2: processor use 93.4 % (limit 80 %) since 14:05'
 */
export function incidentMessage(facts: IncidentFacts, zone: Dates): Message {
  const { condition, unit } = facts;
  const limit = conditionIn(condition, unit);
  const value = comparedText(condition, facts.value, unit);
  const what = facts.what.toLowerCase();
  const place = [facts.account, facts.region].filter((part) => part !== '').join(', ');
  const where = [
    ['On', facts.subject],
    ...(facts.service ? [['Service', facts.service] as const] : []),
    ...(place === '' ? [] : [['Account', place] as const])
  ] as const;
  const opened = fullMoment(facts.openedAt, zone);
  if (facts.closedAt === null)
    return {
      subject: `${facts.severity.toUpperCase()} ${facts.subject}: ${what} ${value} (${limitOf(condition, unit)}) since ${peopleMoment(facts.openedAt, facts.writtenAt, zone)}${facts.why === 'step' || facts.why === 'repeat' ? ', not acknowledged' : ''}`,
      heading: facts.alarm,
      sentence: `${facts.subject} is raised (${facts.severity}): ${what} is ${value}, raised when it ${limit}.${askedWhy[facts.why ?? 'news']}`,
      rows: [
        ...where,
        ['Since', opened],
        ['Value', value],
        ['Raised when', `it ${limit}`],
        ...(facts.nearby ?? []).map(
          ({ at, text }) => ['Before it', `${peopleMoment(at, facts.writtenAt, zone)} ${text}`] as const
        ),
        ...(facts.runbook ? [['Runbook', facts.runbook] as const] : []),
        ...((facts.notified ?? []).length > 1 ? [['Notified', (facts.notified ?? []).join(', ')] as const] : [])
      ],
      link: facts.link,
      linkText: openIncident
    };
  const lasted = peopleDuration((facts.closedAt - facts.openedAt) as Duration);
  return {
    subject: `CLEAR ${facts.subject}: ${what} ${value} after ${lasted}`,
    heading: facts.alarm,
    sentence: `${facts.subject} is clear again after ${lasted}: ${what} is ${value}.`,
    rows: [
      ...where,
      ['Raised', opened],
      ['Cleared', fullMoment(facts.closedAt, zone)],
      ['Lasted', lasted],
      ['Peak', comparedText(condition, facts.peak, unit)],
      ['Raised when', `it ${limit}`]
    ],
    link: facts.link,
    linkText: openIncident
  };
}

/**
 * The message of an incident that was raised and cleared before anybody could be notified, as when its data came late: one message that says both.
 *
 * @example passedMessage(facts, 'UTC').subject // 'MAJOR booking-web-2: processor use was above 80 % from 14:05 to 14:15'
 */
export function passedMessage(facts: IncidentFacts & { readonly closedAt: Instant | null }, zone: Dates): Message {
  const { condition, unit, openedAt, closedAt, writtenAt, subject, severity } = facts;
  const cleared = incidentMessage(facts, zone);
  const until = closedAt ?? openedAt;
  const summary = `${facts.what.toLowerCase()} ${inThePast(conditionIn(condition, unit))} from ${peopleMoment(openedAt, writtenAt, zone)} to ${peopleMoment(until, writtenAt, zone)}`;
  return {
    ...cleared,
    subject: `${severity.toUpperCase()} ${subject}: ${summary}`,
    sentence: `${subject} was raised (${severity}) and is clear again: ${summary}. Its data came too late to notify you while it was raised.`
  };
}

/**
 * The message of an incident that a person closed while it was still raised.
 *
 * @example dismissedMessage(facts, 'UTC').subject // 'CLOSED booking-web-2: processor use, false alarm (Nerea Olmo)'
 */
export function dismissedMessage(facts: IncidentFacts, zone: Dates): Message {
  const { condition, unit, subject, openedAt, closedAt, ending = '' } = facts;
  const written = incidentMessage({ ...facts, closedAt: null }, zone);
  return {
    ...written,
    subject: `CLOSED ${subject}: ${facts.what.toLowerCase()}, ${ending}`,
    sentence: `The incident on ${subject} was closed while its numbers still raise it: ${ending}. You hear of it again when it is raised anew, or becomes graver.`,
    rows: [
      ['On', subject],
      ['Raised', fullMoment(openedAt, zone)],
      ...(closedAt === null ? [] : [['Closed', fullMoment(closedAt, zone)] as const]),
      ['Raised when', `it ${conditionIn(condition, unit)}`]
    ]
  };
}

/** What is said of why a message about what is raised is sent. */
export const askedWhy = {
  news: '',
  digest: '',
  step: ' Nobody who was notified before has acknowledged it.',
  repeat: ' Nobody has acknowledged it yet.'
} as const;
export const openIncident = 'Open the incident in Bussola';

/** A condition that held. @example inThePast('is above 80 %') // 'was above 80 %' */
const inThePast = (condition: string): string =>
  condition
    .replace(/^is /, 'was ')
    .replace(/^has had /, 'had ')
    .replace(/^will be /, 'was about to be ')
    .replace(
      /^(rises or falls|rises|falls) /,
      (verb) => ({ 'rises ': 'rose ', 'falls ': 'fell ' })[verb] ?? 'changed '
    );

/** What a message about an alarm that cannot be judged says. */
export interface UnjudgedFacts {
  readonly alarm: string;
  readonly message: string;
  readonly remedy: string;
  readonly since: Instant;
  readonly writtenAt: Instant;
  readonly link: string;
}

/**
 * The message that an alarm cannot be judged: nobody would be notified by it meanwhile.
 *
 * @example unjudgedMessage(facts, 'UTC').subject // 'Alarm "Queue too long" cannot be judged since 14:05'
 */
export const unjudgedMessage = (
  { alarm, message, remedy, since, writtenAt, link }: UnjudgedFacts,
  zone: Dates
): Message => ({
  subject: `Alarm "${alarm}" cannot be judged since ${peopleMoment(since, writtenAt, zone)}`,
  heading: alarm,
  sentence: `Bussola cannot judge this alarm, so it raises nothing at present. ${message}`,
  rows: [
    ['Since', fullMoment(since, zone)],
    ['Why', message],
    ['What to do', remedy]
  ],
  link,
  linkText: 'Open the alarm in Bussola'
});

/** The message that tries a channel. @example testMessage('Kaja Tamm', 'https://bussola.example.test').subject // 'Test by Kaja Tamm' */
export const testMessage = (by: string, origin: string): Message => ({
  subject: `Test by ${by}`,
  heading: 'This channel works',
  sentence: `${by} sent this test. Alarms that notify this channel arrive in the same way.`,
  rows: [],
  link: `${origin}/channels`,
  linkText: 'See the channels in Bussola'
});

/** A message of which only the text is known. */
export const writtenMessage = ({ subject, text }: { subject: string; text: string }, origin: string): Message => ({
  subject,
  heading: subject,
  sentence: text,
  rows: [],
  link: origin,
  linkText: 'Open Bussola'
});

const mostShort = 160;

/**
 * A message for a telephone: what, where, how bad, since when, and the link by which it is acknowledged, or else that of the incident, in 160 characters at most. A subject that is too long is cut, the link never is.
 *
 * @example shortText(message) // 'MAJOR booking-web-2: processor use 93.4 % (limit 80 %) since 14:05 https://bussola.example.test/incidents/7'
 */
export function shortText({
  subject,
  link: page,
  acknowledge
}: Pick<Message, 'subject' | 'link' | 'acknowledge'>): string {
  const link = acknowledge ?? page;
  const room = mostShort - link.length - 1;
  const cut = [...subject].length <= room ? subject : `${[...subject].slice(0, Math.max(0, room - 1)).join('')}…`;
  return `${cut} ${link}`;
}

/** The message as plain text. @example plainText(message).split('\n')[0] // the heading */
export function plainText({ heading, sentence, rows, link, acknowledge, leave }: Message): string {
  const width = Math.max(...rows.map(([name]) => name.length)) + 2;
  return [
    heading,
    '',
    sentence,
    '',
    ...rows.map(([name, value]) => `${`${name}:`.padEnd(width)}${value}`),
    ...(rows.length > 0 ? [''] : []),
    ...(acknowledge ? [`Acknowledge: ${acknowledge}`] : []),
    link,
    ...(leave ? ['', `You subscribed to this topic. Leave it: ${leave}`] : []),
    ''
  ].join('\n');
}
