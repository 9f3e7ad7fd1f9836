import { createParser } from 'eventsource-parser';
import { z } from 'zod';
import { instantTextSchema } from '$lib/core/forms/instant-text';
import { unstorableIn } from '$lib/core/forms/storable';
import { instantFromText } from '$lib/core/time';
import { partsOf } from '../port/outbound';
import type { FoundEvent, ProviderAccess, UnreadableEvent } from '../port/provider';
import { identityOf } from './identity';
import { openStream } from './stream';

const eventSchema = z.object({
  at: instantTextSchema,
  subject: z.record(z.string().max(200), z.string().max(1000)),
  kind: z.string().max(60),
  text: z.string().max(1000)
});

/** A line of the stream longer than this is no event, characters. */
const longestLine = 65_536;

/** One event of a stream, or why it cannot be read. @example eventOf('harbour', '7', '{"at":…}') */
export function eventOf(cluster: string, id: string | undefined, data: string): FoundEvent | UnreadableEvent {
  const named = id === undefined || id === '' || id.length > 100 ? null : `${cluster}/${id}`;
  const refused = (why: string): UnreadableEvent => ({ id: named, why, example: data.slice(0, 200) });
  let value: unknown;
  try {
    value = JSON.parse(data);
  } catch (error) {
    if (!(error instanceof SyntaxError)) throw error;
    return refused('it is no JSON');
  }
  const unstorable = unstorableIn(value);
  if (unstorable !== null) return refused(`${unstorable.path} ${unstorable.why}`);
  const event = eventSchema.safeParse(value);
  if (named === null) return refused('it has no id');
  if (!event.success) {
    const [issue] = event.error.issues;
    return refused(`${issue?.path.join('.') || 'it'}: ${issue?.message ?? 'cannot be read'}`);
  }
  const { at, subject, kind, text } = event.data;
  return {
    id: named,
    at: instantFromText(at),
    resource: identityOf(cluster, subject).providerId,
    kind,
    text,
    subject
  };
}

/** Follows a cluster's stream of events, behind the last one that was stored. The call goes through the guard like every other; the stream itself then continues as long as it lasts. */
export async function* follow(
  access: ProviderAccess,
  cluster: string,
  cursor: string | null,
  signal: AbortSignal
): AsyncGenerator<FoundEvent | UnreadableEvent> {
  const response = await openStream(access, `/clusters/${encodeURIComponent(cluster)}/events`, {
    what: `The stream of events of ${cluster}`,
    right: 'events.follow',
    signal,
    headers: cursor === null ? {} : { 'last-event-id': cursor.slice(cluster.length + 1) }
  });
  const waiting: (FoundEvent | UnreadableEvent)[] = [];
  const parser = createParser({ onEvent: ({ id, data }) => void waiting.push(eventOf(cluster, id, data)) });
  const decoder = new TextDecoder();
  let unbroken = 0; // characters since the last line break
  for await (const part of partsOf(response, signal)) {
    const text = decoder.decode(part, { stream: true });
    unbroken = text.includes('\n') ? text.length - text.lastIndexOf('\n') : unbroken + text.length;
    if (unbroken > longestLine) {
      parser.reset();
      yield { id: null, why: `a line has more than ${longestLine} characters`, example: text.slice(0, 200) };
      unbroken = 0;
      continue;
    }
    parser.feed(text);
    for (let event = waiting.shift(); event; event = waiting.shift()) yield event;
  }
}

/** Opens the stream of events and closes it again. */
export async function hear(access: ProviderAccess, cluster: string): Promise<void> {
  const ending = new AbortController();
  const events = follow(access, cluster, null, ending.signal);
  try {
    await Promise.race([events.next(), new Promise((next) => setTimeout(next, 2000))]);
  } finally {
    ending.abort();
  }
}
