import { exactMoment, peopleDuration, type Duration, type Instant } from '../time';
import { limitText, quantityText } from '../units';
import type { Condition, Severity } from '../alarm';

/** Everything a message about an incident says. */
export interface IncidentFacts {
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
  readonly condition: Condition;
  readonly openedAt: Instant;
  /** Null while it is raised. */
  readonly closedAt: Instant | null;
  /** The value of the cell it was decided on; NaN when that cell was a gap. */
  readonly value: number;
  readonly peak: number;
  readonly link: string;
}

export interface Message {
  readonly subject: string;
  /** Heading, then what happened in one sentence. */
  readonly heading: string;
  readonly sentence: string;
  /** Name and value, in reading order. */
  readonly rows: readonly (readonly [string, string])[];
  readonly link: string;
}

/**
 * The message of an incident: raised while `closedAt` is null, cleared after. The subject alone says what, where, how bad.
 *
 * @param zone an IANA zone for the times in it
 * @example incidentMessage(facts, 'UTC').subject // 'MAJOR booking-web-2: processor use 93.4 % (limit 80 %) since 14:05'
 */
export function incidentMessage(facts: IncidentFacts, zone: string): Message {
  const limit = `${facts.condition.is} ${limitText(facts.condition.threshold, facts.unit)}`;
  const value = quantityText(facts.value, facts.unit);
  const what = facts.what.toLowerCase();
  const place = [facts.account, facts.region].filter((part) => part !== '').join(', ');
  const where = [['On', facts.subject], ...(place === '' ? [] : [['Account', place] as const])] as const;
  const opened = exactMoment(facts.openedAt, zone);
  if (facts.closedAt === null)
    return {
      subject: `${facts.severity.toUpperCase()} ${facts.subject}: ${what} ${value} (limit ${limitText(facts.condition.threshold, facts.unit)}) since ${clockTime(facts.openedAt, zone)}`,
      heading: facts.alarm,
      sentence: `${facts.subject} is raised (${facts.severity}): ${what} is ${value}, raised when ${limit}.`,
      rows: [...where, ['Since', opened], ['Value', value], ['Raised when', limit]],
      link: facts.link
    };
  const lasted = peopleDuration((facts.closedAt - facts.openedAt) as Duration);
  return {
    subject: `CLEAR ${facts.subject}: ${what} ${value} after ${lasted}`,
    heading: facts.alarm,
    sentence: `${facts.subject} is clear again after ${lasted}: ${what} is ${value}.`,
    rows: [
      ...where,
      ['Raised', opened],
      ['Cleared', exactMoment(facts.closedAt, zone)],
      ['Lasted', lasted],
      ['Peak', quantityText(facts.peak, facts.unit)],
      ['Raised when', limit]
    ],
    link: facts.link
  };
}

/** The message as plain text. @example plainText(message).split('\n')[0] // the heading */
export function plainText({ heading, sentence, rows, link }: Message): string {
  const width = Math.max(...rows.map(([name]) => name.length)) + 2;
  return [
    heading,
    '',
    sentence,
    '',
    ...rows.map(([name, value]) => `${`${name}:`.padEnd(width)}${value}`),
    '',
    link,
    ''
  ].join('\n');
}

const clockTime = (at: Instant, zone: string): string => exactMoment(at, zone).slice(11, 16);
