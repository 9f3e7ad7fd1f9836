import { z } from 'zod';
import { mended, mendedText } from '../forms/storable';
import { problemsOf } from '../forms/problems';
import { Refusal } from '../problem/problem';
import { instant, type Instant } from '../time';
import { longestAttribute, longestSource, longestText, longestType, mostAttributes } from './event';

/** An event that arrived. */
export interface ArrivedEvent {
  /** Of all events of a source, the id that its sender gives it: the same twice is one event. */
  readonly id: string;
  readonly source: string;
  readonly type: string;
  readonly at: Instant;
  /** What it is about; empty for nothing. */
  readonly subject: string;
  readonly text: string;
  readonly attributes: Readonly<Record<string, string>>;
}

/** Events that were read, and why others were not. */
export interface ArrivedEvents {
  readonly events: readonly ArrivedEvent[];
  readonly refused: readonly { readonly position: number; readonly why: string }[];
}

/** Events of one request. */
const mostEvents = 1000;
/** Characters of all attributes of an event. */
const mostCharacters = 16_384;
/** How deep values of the data are looked at, and how deep lists and maps may lie in one that is taken whole: of a deeper one, writing it as JSON would not come to an end. */
const mostDepth = 4;
const mostListed = 32;
/** An event further ahead of now than this comes from a clock that is wrong, ms. */
const toleratedAhead = 600_000;
const earliest = Date.UTC(1990, 0, 1);

const required = (what: string, most: number) =>
  z
    .string({ error: `It has no ${what}.` })
    .min(1, { error: `Its ${what} is empty.` })
    .max(most, { error: `Its ${what} has more than ${most} characters.` });

const cloudEventSchema = z.looseObject({
  specversion: z.literal('1.0', { error: 'Its specversion is not 1.0.' }),
  id: required('id', 200),
  source: required('source', longestSource),
  type: required('type', longestType),
  subject: z.string().max(300).optional(),
  time: z.iso.datetime({ offset: true, error: 'Its time is not RFC 3339.' }).optional(),
  datacontenttype: z.string().max(200).optional(),
  data: z.unknown().optional(),
  data_base64: z.string().optional()
});

/** Names of the data that say in words what happened, the best first. */
const textNames = ['message', 'text', 'summary', 'title', 'description'];

/**
 * Reads CloudEvents, one or a list of them. Attributes are its extensions, and of its data every value with the names that lead to it, within limits.
 *
 * Source: CloudEvents 1.0.2, JSON Event Format.
 *
 * @param given JSON as it was parsed
 * @param now when it arrived: what says no time is of then
 * @throws Refusal for what is neither an event nor a list of events
 * @example readCloudEvents({ specversion: '1.0', id: '7', source: '/release', type: 'test.corallo.released' }, now).events[0]?.type // 'test.corallo.released'
 */
export function readCloudEvents(given: unknown, now: Instant): ArrivedEvents {
  const all: readonly unknown[] = Array.isArray(given) ? given : [given];
  if (all.length > mostEvents)
    throw new Refusal('too-large', `There are more than ${mostEvents} events.`, 'Send them in several requests.');
  const events: ArrivedEvent[] = [];
  const refused: { position: number; why: string }[] = [];
  for (const [position, one] of all.entries()) {
    const read = cloudEventSchema.safeParse(one);
    const why = read.success ? timeFault(read.data.time, now) : (problemsOf(read.error)[0]?.message ?? '');
    if (!read.success || why !== '') refused.push({ position, why });
    else events.push(arrivedFrom(read.data, now));
  }
  return { events, refused };
}

function timeFault(time: string | undefined, now: Instant): string {
  if (time === undefined) return '';
  const at = Date.parse(time);
  if (!(at >= earliest)) return 'Its time is before 1990.';
  return at > now + toleratedAhead ? 'Its time is more than ten minutes ahead of now.' : '';
}

function arrivedFrom(
  {
    specversion: _version,
    id,
    source,
    type,
    subject = '',
    time,
    datacontenttype: _type,
    data,
    data_base64: _bytes,
    ...extensions
  }: z.output<typeof cloudEventSchema>,
  now: Instant
): ArrivedEvent {
  const attributes = new Attributes();
  for (const [name, value] of Object.entries(extensions)) attributes.take(name, value, mostDepth);
  attributes.take(isMap(data) ? '' : 'data', data, 0);
  const said = textNames.map((name) => attributes.get(name)).find((text) => text.trim() !== '');
  const about = subject === '' ? attributes.get('resource') : subject;
  return mended({
    ...{ id, source, type, at: time === undefined ? now : instant(Date.parse(time)) },
    subject: about.slice(0, 300),
    text: (said ?? `${type}${about === '' ? '' : ` on ${about}`}`).slice(0, longestText),
    attributes: attributes.all()
  });
}

const isMap = (value: unknown): value is object => typeof value === 'object' && value !== null && !Array.isArray(value);

const isDeep = (value: unknown, levels: number): boolean =>
  typeof value === 'object' &&
  value !== null &&
  (levels === 0 || Object.values(value).some((inner) => isDeep(inner, levels - 1)));

/** Attributes as they are gathered, within limits. */
class Attributes {
  readonly #all = new Map<string, string>();
  #left = mostCharacters;

  /** Takes a value, or those within it by the names that lead to them. */
  take(name: string, value: unknown, depth: number): void {
    if (value === null || value === undefined || this.#all.size >= mostAttributes || this.#left <= 0) return;
    if (isMap(value) && depth < mostDepth) {
      for (const [key, inner] of Object.entries(value))
        this.take(name === '' ? key : `${name}.${key}`, inner, depth + 1);
      return;
    }
    const text = typeof value === 'string' ? value : isDeep(value, mostListed) ? '…' : JSON.stringify(value);
    const taken = text.slice(0, Math.min(longestAttribute, this.#left));
    this.#left -= taken.length;
    this.#all.set(mendedText(name).slice(0, 200), taken);
  }

  get(name: string): string {
    return this.#all.get(name) ?? '';
  }

  all(): Record<string, string> {
    return Object.fromEntries(this.#all);
  }
}

/**
 * An event in binary mode as one in JSON: its attributes are headers with a prefix, their values percent-encoded; its data is the body.
 *
 * Source: CloudEvents 1.0.2, HTTP Protocol Binding, 3.1.
 *
 * @param headers with names in small letters
 * @param data as the content type says: parsed JSON, or text
 * @example fromHeaders({ 'ce-id': '7', 'ce-type': 'released' }, null) // { id: '7', type: 'released', data: null }
 */
export function fromHeaders(headers: Readonly<Record<string, string>>, data: unknown): object {
  const named = Object.entries(headers).filter(([name]) => name.startsWith('ce-'));
  return { ...Object.fromEntries(named.map(([name, value]) => [name.slice(3), percentDecoded(value)])), data };
}

function percentDecoded(text: string): string {
  try {
    return decodeURIComponent(text);
  } catch {
    return text; // it is no such encoding, so it stands for itself
  }
}
