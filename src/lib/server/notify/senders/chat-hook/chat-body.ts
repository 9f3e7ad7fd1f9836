import Mustache from 'mustache';
import { templateNames, templateValues, type Message, type MessageContent } from '$lib/core/notify';
import type { Instant } from '$lib/core/time';

/** What most rooms take. */
const usualTemplate = '{ "text": "{{short}}" }';

/**
 * The JSON that is posted into a chat room, by its template: text with names in double braces. Whatever stands for a name is escaped as in a string of JSON, so that no text can change the shape.
 *
 * @param template null for `{ "text": … }`
 * @throws Error when the template gives no JSON
 * @example chatBody(null, message, content) // '{ "text": "MAJOR booking-web-2: … https://…" }'
 */
export function chatBody(template: string | null, message: Message, content: MessageContent): string {
  const body = filled(template ?? usualTemplate, templateValues(message, content, 'UTC', 0 as Instant));
  JSON.parse(body);
  return body;
}

/** Why a template cannot be used, in a sentence; null when it can. @example chatTemplateProblem('{ "text": {{short}} }') // 'With a message in it, …' */
export function chatTemplateProblem(template: string): string | null {
  let used: string[];
  try {
    used = namesIn(Mustache.parse(template));
  } catch (error) {
    return `The template cannot be read: ${(error as Error).message}.`;
  }
  const unknown = used.find((name) => !Object.hasOwn(templateNames, name));
  if (unknown !== undefined)
    return `There is no “${unknown}” in a message. There are ${Object.keys(templateNames).join(', ')}.`;
  try {
    JSON.parse(
      filled(template, Object.fromEntries(Object.keys(templateNames).map((name) => [name, 'a "quoted" text'])))
    );
    return null;
  } catch {
    return 'With a message in it, this is no JSON. Put the names between quotation marks, such as { "text": "{{short}}" }.';
  }
}

type Names = Readonly<Record<string, unknown>>;

const filled = (template: string, names: Names): string =>
  Mustache.render(template, names, undefined, { escape: (text: unknown) => JSON.stringify(String(text)).slice(1, -1) });

type Token = ReturnType<typeof Mustache.parse>[number];

/** Names that a template uses. What is not escaped, and what loads other templates, is named as it stands: it is not known, and so refused. */
const namesIn = (tokens: readonly Token[]): string[] =>
  tokens.flatMap(([type, name, , , inner]) => {
    if (type === 'text' || type === '!') return [];
    if (type === 'name') return [name];
    if (type === '#' || type === '^') return [name, ...namesIn(Array.isArray(inner) ? inner : [])];
    return [`${type}${name}`];
  });
