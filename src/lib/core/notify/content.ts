import { z } from 'zod';
import { conditionSchema, severities } from '../alarm';
import type { StoredForm } from '../forms/stored';
import { fullMoment, type Instant } from '../time';
import { serviceByKey } from '../services';
import { eventMessage } from './event-message';
import { groupedMessage } from './grouped';
import {
  dismissedMessage,
  incidentMessage,
  passedMessage,
  testMessage,
  unjudgedMessage,
  writtenMessage,
  type GroupedIncident,
  type Message,
  type Writing
} from './message';

const moment = z.int().transform((ms) => ms as Instant);
/** A number that may not be known. */
const reading = z.number().nullable();

/** Why a message is sent: something new, the next people, once more, or what a digest gathers. */
export const whySent = ['news', 'step', 'repeat', 'digest'] as const;
const why = z.enum(whySent).default('news');

const incidentFacts = {
  /** Passed is one that was raised and cleared before anybody could be notified, dismissed one that a person closed while it was raised. */
  news: z.enum(['raised', 'cleared', 'passed', 'dismissed']),
  incidentId: z.int(),
  alarm: z.string(),
  severity: z.enum(severities),
  subject: z.string(),
  account: z.string(),
  region: z.string(),
  what: z.string(),
  unit: z.string(),
  /** Null of what events raised. */
  condition: conditionSchema.nullable(),
  /** What the event said that raised it; empty for none. */
  event: z.string().default(''),
  openedAt: moment,
  closedAt: moment.nullable(),
  value: reading,
  peak: reading,
  service: z.string().default(''),
  runbook: z.string().default(''),
  /** How it ended, as whoever closed it says. */
  ending: z.string().default('')
};
const groupedIncidentSchema: z.ZodType<GroupedIncident> = z.strictObject(incidentFacts);

/** Incidents that a message of several names; it counts the others. */
export const mostNamed = 20;

/** What a message says, as data: who sends it writes it in the form of its kind of channel, and in the reader's time zone. */
export const messageContentSchema = z.discriminatedUnion('kind', [
  z.strictObject({
    kind: z.literal('incident'),
    why,
    ...incidentFacts,
    /** What changed near it before it was raised, the newest first. */
    nearby: z.array(z.strictObject({ at: moment, text: z.string() })).default([]),
    /** Everybody who is notified by this message. */
    notified: z.array(z.string()).default([])
  }),
  /** Of several incidents that belong together. */
  z.strictObject({
    kind: z.literal('grouped'),
    why,
    /** What they have in common, such as the title of their service; empty for nothing but their route. */
    together: z.string(),
    /** The gravest of those that are raised come first, what is over last. */
    incidents: z.array(groupedIncidentSchema).min(1).max(mostNamed),
    /** How many there are besides those named. */
    more: z.int().min(0),
    /** How many of these are clear, and how many were closed by a person; the others are raised. */
    moreClear: z.int().min(0).default(0),
    moreClosed: z.int().min(0).default(0)
  }),
  z.strictObject({
    kind: z.literal('unjudged'),
    alarmId: z.int(),
    alarm: z.string(),
    message: z.string(),
    remedy: z.string(),
    since: moment
  }),
  /** Asks whoever reads the channel to confirm it: the secret in it is made when it is sent. */
  z.strictObject({ kind: z.literal('confirm') }),
  /** Invites whoever reads the channel to this Bussola: the link is made when it is sent. */
  z.strictObject({ kind: z.literal('join'), by: z.string() }),
  /** Lets a person set a new password: the link is made when it is sent. */
  z.strictObject({ kind: z.literal('reset') }),
  z.strictObject({ kind: z.literal('test'), by: z.string() }),
  /** About the watch of whoever receives it, such as a reminder. */
  z.strictObject({
    kind: z.literal('note'),
    subject: z.string(),
    sentence: z.string(),
    /** Names with texts, or with moments, which are written in the reader's zone. */
    rows: z.array(z.strictObject({ name: z.string(), text: z.string().optional(), at: moment.optional() })),
    /** The page of Bussola that it leads to, such as `/rotas`. */
    path: z.string().startsWith('/'),
    linkText: z.string()
  }),
  /** What a week or month came to, for people who do not operate. */
  z.strictObject({
    kind: z.literal('summary'),
    summaryId: z.int(),
    name: z.string(),
    /** Which week or month, such as `April 2026`. */
    title: z.string(),
    sentences: z.array(z.string()),
    rows: z.array(z.tuple([z.string(), z.string()]))
  }),
  /** Of an older Bussola, which stored messages as they were written. */
  z.strictObject({ kind: z.literal('written'), subject: z.string(), text: z.string() })
]);
export type MessageContent = z.infer<typeof messageContentSchema>;

/** How the content of a message is stored. */
export const contentForm: StoredForm<MessageContent> = {
  what: 'The message',
  version: 1,
  schema: messageContentSchema,
  upgrades: []
};

/** Messages that hold a secret: nothing of what is sent for them is stored. */
export const secretKinds = ['confirm', 'join', 'reset'] as const;
export type SecretKind = (typeof secretKinds)[number];

/** Whether a message of a kind holds a secret. @example holdsSecret('join') // true */
export const holdsSecret = (kind: string): kind is SecretKind => (secretKinds as readonly string[]).includes(kind);

/**
 * A message in words.
 *
 * @example messageOf({ kind: 'test', by: 'Kaja Tamm' }, { zone: 'UTC', now, origin }).subject // 'Test by Kaja Tamm'
 */
export function messageOf(content: Exclude<MessageContent, { kind: SecretKind }>, writing: Writing): Message {
  const { zone, now, origin, acknowledge } = writing;
  const asks = acknowledge === undefined ? {} : { acknowledge };
  switch (content.kind) {
    case 'incident': {
      const { incidentId, news, value, peak } = content;
      const link = `${origin}/incidents/${incidentId}`;
      const make = news === 'passed' ? passedMessage : news === 'dismissed' ? dismissedMessage : incidentMessage;
      const service = content.service === '' ? '' : serviceByKey(content.service).title;
      const facts = { ...content, service, value: value ?? NaN, peak: peak ?? NaN, writtenAt: now, link };
      const { condition } = content;
      const message = condition === null ? eventMessage(facts, zone) : make({ ...facts, condition }, zone);
      return { ...message, ...(news === 'raised' && asks) };
    }
    case 'grouped':
      return {
        ...groupedMessage(content, writing),
        ...(content.incidents.some(({ news }) => news === 'raised') && asks)
      };
    case 'unjudged':
      return unjudgedMessage({ ...content, writtenAt: now, link: `${origin}/alarms/${content.alarmId}` }, zone);
    case 'test':
      return testMessage(content.by, origin);
    case 'note': {
      const { subject, sentence, rows, path, linkText } = content;
      const shown = rows.map(
        ({ name, text = '', at }) => [name, at === undefined ? text : fullMoment(at, zone)] as const
      );
      return { subject, heading: subject, sentence, rows: shown, link: `${origin}${path}`, linkText };
    }
    case 'summary': {
      const { summaryId, name, title, sentences, rows } = content;
      return {
        ...{ subject: `${name}: ${title}`, heading: `${name}: ${title}`, sentence: sentences.join('\n'), rows },
        ...{ link: `${origin}/summary/${summaryId}`, linkText: 'Read it with all its numbers' }
      };
    }
    case 'written':
      return writtenMessage(content, origin);
  }
}
