import Mustache from 'mustache';
import { z } from 'zod';
import type { StoredForm } from '../forms/stored';
import { comparedText, limitOf } from '../alarm';
import { peopleMoment, type Dates, type Instant } from '../time';
import { templateNames } from './channel';
import type { MessageContent } from './content';
import { shortText, type Message } from './message';

/** What messages about incidents say instead of the usual words; empty for the usual ones. */
export const messageTemplatesSchema = z.strictObject({
  /** Of a mail, in one line. */
  subject: z.string().trim().max(400).default(''),
  /** Of a mail, above the links, as plain text. */
  text: z.string().max(4000).default(''),
  /** Of text messages and push notifications, in one line; the link is added. */
  short: z.string().trim().max(200).default('')
});
export type MessageTemplates = z.infer<typeof messageTemplatesSchema>;

/** How they are stored. */
export const messageTemplatesForm: StoredForm<MessageTemplates> = {
  what: 'What messages say',
  version: 1,
  schema: messageTemplatesSchema,
  upgrades: []
};

/** Names that words of messages may use, each with what it stands for. `rows` is a list: what stands in its section is written for each line. */
export const wordNames: Readonly<Record<string, string>> = {
  ...templateNames,
  service: 'its service',
  what: 'what is watched, such as processor use',
  value: 'the value that decided, with its unit; empty of what events raised',
  limit: 'the limit, such as limit 80 %; empty of what events raised',
  event: 'what the event said that raised it; empty of what an alarm raised',
  since: 'since when, as the reader writes dates',
  runbook: 'the runbook of the alarm',
  rows: 'the lines below the sentence, each with name and text'
};

/** Values of the names in double braces. @example templateValues(message, content, 'UTC', now)['summary'] // 'MAJOR booking-web-2: …' */
export function templateValues(
  message: Message,
  content: MessageContent,
  dates: Dates,
  now: Instant
): Readonly<Record<string, string | readonly { readonly name: string; readonly text: string }[]>> {
  const incident = content.kind === 'incident' ? content : null;
  const condition = incident?.condition ?? null;
  return {
    short: shortText(message),
    summary: message.subject,
    title: message.heading,
    text: message.sentence,
    link: message.link,
    acknowledge: message.acknowledge ?? '',
    severity: incident?.severity ?? '',
    state: incident?.news ?? '',
    subject: incident?.subject ?? '',
    account: incident?.account ?? '',
    region: incident?.region ?? '',
    openedAt: incident === null ? '' : new Date(incident.openedAt).toISOString(),
    service: message.rows.find(([name]) => name === 'Service')?.[1] ?? '',
    what: incident?.what ?? '',
    value: incident === null || condition === null ? '' : comparedText(condition, incident.value ?? NaN, incident.unit),
    limit: incident === null || condition === null ? '' : limitOf(condition, incident.unit),
    since: incident === null ? '' : peopleMoment(incident.openedAt, now, dates),
    event: incident?.event ?? '',
    runbook: incident?.runbook ?? '',
    rows: message.rows.map(([name, text]) => ({ name, text }))
  };
}

type Token = ReturnType<typeof Mustache.parse>[number];

/** Names that a template uses, and whether a section stands within that of `rows`. What loads other templates is named as it stands: it is not known, and so refused. */
function namesIn(
  tokens: readonly Token[],
  within: string | null = null
): readonly { name: string; within: string | null }[] {
  return tokens.flatMap(([type, name, , , inner]) => {
    if (type === 'text' || type === '!') return [];
    // Without braces of its own, `&` writes the value as it stands, as all is written here.
    if (type === 'name' || type === '&') return [{ name, within }];
    if (type === '#' || type === '^')
      return [
        { name: within === 'rows' ? `section ${name} within rows` : name, within },
        ...namesIn(Array.isArray(inner) ? inner : [], name === 'rows' ? 'rows' : within)
      ];
    return [{ name: `${type}${name}`, within }];
  });
}

/** Why words of a message cannot be used, in a sentence; null when they can. @example wordsProblem('{{severity}} {{wher}}') // 'There is no “wher” in a message. …' */
export function wordsProblem(template: string): string | null {
  let used: ReturnType<typeof namesIn>;
  try {
    used = namesIn(Mustache.parse(template));
  } catch (error) {
    return `This cannot be read: ${(error as Error).message}.`;
  }
  const unknown = used.find(
    ({ name, within }) => !Object.hasOwn(wordNames, name) && !(within === 'rows' && name === 'name')
  );
  if (unknown === undefined) return null;
  return `There is no “${unknown.name}” in a message. There are ${Object.keys(wordNames).join(', ')}, and name and text within rows.`;
}

/** Characters that words may come to: a message stays one that people read. */
const [mostSubject, mostText] = [300, 20_000];

/**
 * A message in the words of a workspace: of one that is about incidents, its subject, its text and its short form where templates say so. Its links stay, whatever the templates say.
 *
 * @param short whether it is for a telephone or a notification
 * @example inOwnWords(message, content, { ...templates, subject: '{{severity}}: {{subject}}' }, { dates: 'UTC', now, short: false }).subject // 'major: booking-web-2'
 */
export function inOwnWords(
  message: Message,
  content: MessageContent,
  { subject, text, short }: MessageTemplates,
  writing: { readonly dates: Dates; readonly now: Instant; readonly short: boolean }
): Message {
  if (content.kind !== 'incident' && content.kind !== 'grouped') return message;
  const values = templateValues(message, content, writing.dates, writing.now);
  const filled = (template: string, most: number): string =>
    [...Mustache.render(template, values, undefined, { escape: String })].slice(0, most).join('');
  const line = (template: string): string => filled(template, mostSubject).replace(/\s+/g, ' ').trim();
  if (writing.short) {
    const own = short === '' ? '' : line(short);
    return own === '' ? message : { ...message, subject: own };
  }
  const ownSubject = subject === '' ? '' : line(subject);
  const ownText = text.trim() === '' ? '' : filled(text, mostText).trim();
  return {
    ...message,
    ...(ownSubject !== '' && { subject: ownSubject }),
    ...(ownText !== '' && { sentence: ownText, rows: [] })
  };
}
