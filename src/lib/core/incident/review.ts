import type { Severity } from '../alarm';
import { exactMoment, peopleDuration, type Duration, type Instant } from '../time';
import type { TimelineEntry } from './timeline';

/** What a summary for a review is written from. */
export interface ReviewFacts {
  readonly subject: string;
  readonly alarm: string;
  readonly severity: Severity;
  readonly account: string;
  readonly openedAt: Instant;
  readonly closedAt: Instant | null;
  /** When the first message about it was taken; null for none. */
  readonly notifiedAt: Instant | null;
  readonly acknowledgedAt: Instant | null;
  readonly acknowledgedBy: string | null;
  /** How it ended, by whoever says so; null while nobody has. */
  readonly ending: { readonly text: string; readonly by: string } | null;
  readonly timeline: readonly TimelineEntry[];
}

/**
 * A summary of an incident for a review, as CommonMark: how long it took to notice, to acknowledge and to clear, what happened, who did what.
 *
 * @param now until when it lasted that is still open
 * @example reviewText(facts, 'UTC', now).split('\n')[0] // '# booking-web-2: Processor nearly exhausted'
 */
export function reviewText(facts: ReviewFacts, zone: string, now: Instant): string {
  const { openedAt, closedAt, notifiedAt, acknowledgedAt, acknowledgedBy } = facts;
  const until = (at: Instant | null, none: string) =>
    at === null ? none : peopleDuration(Math.max(0, at - openedAt) as Duration);
  const people = [
    ...new Set(facts.timeline.filter(({ kind }) => kind === 'person' || kind === 'note').map(({ aside }) => aside))
  ];
  return [
    `# ${plain(facts.subject)}: ${plain(facts.alarm)}`,
    '',
    `${facts.severity}${facts.account === '' ? '' : `, ${plain(facts.account)}`}, from ${exactMoment(openedAt, zone)} ${closedAt === null ? 'on' : `to ${exactMoment(closedAt, zone)}`}.`,
    '',
    '| | |',
    '|---|---|',
    `| Until somebody was notified | ${until(notifiedAt, 'nobody was')} |`,
    `| Until it was acknowledged | ${until(acknowledgedAt, 'it was not')}${acknowledgedBy === null ? '' : `, by ${plain(acknowledgedBy)}`} |`,
    `| Until it was clear | ${until(closedAt, `not yet, after ${peopleDuration(Math.max(0, now - openedAt) as Duration)}`)} |`,
    ...(facts.ending === null ? [] : [`| How it ended | ${plain(facts.ending.text)} (${plain(facts.ending.by)}) |`]),
    ...(people.length === 0
      ? []
      : [
          `| Who took part | ${people
            .filter((one) => one !== '')
            .map(plain)
            .join(', ')} |`
        ]),
    '',
    '## What happened',
    '',
    ...facts.timeline.map(
      ({ at, kind, text, aside }) =>
        `- ${exactMoment(at, zone)}: ${kind === 'note' ? indented(text) : plain(text)}${aside === '' ? '' : ` (${plain(aside)})`}`
    ),
    '',
    '## Why it happened',
    '',
    '## What is done about it',
    ''
  ].join('\n');
}

/** Text in which nothing is markup. */
const plain = (text: string): string => text.replace(/\s+/g, ' ').replace(/[\\`*_{}[\]<>#|~]/g, (mark) => `\\${mark}`);
/** CommonMark within an item of a list. */
const indented = (text: string): string => text.trim().replaceAll('\n', '\n  ');
