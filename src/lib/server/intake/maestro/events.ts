import { createParser } from 'eventsource-parser';
import { z } from 'zod';
import { instantFromText } from '$lib/core/time';
import { ProviderError, type FoundEvent, type ProviderAccess } from '../provider';
import { identityOf } from './identity';

const eventSchema = z.object({
  at: z.string(),
  subject: z.record(z.string(), z.string()),
  kind: z.string().max(60),
  text: z.string().max(1000)
});

/** Follows a cluster's stream of events, behind the last one that was kept. */
export async function* follow(
  access: ProviderAccess,
  cluster: string,
  cursor: string | null,
  signal: AbortSignal
): AsyncGenerator<FoundEvent> {
  const url = `${access.endpoint.replace(/\/+$/, '')}/clusters/${encodeURIComponent(cluster)}/events`;
  const headers: Record<string, string> = { accept: 'text/event-stream', authorization: `Bearer ${access.secret}` };
  if (cursor !== null) headers['last-event-id'] = cursor.slice(cluster.length + 1);
  const response = await fetch(url, { headers, signal, redirect: 'error' });
  if (!response.ok || response.body === null)
    throw new ProviderError(
      response.status === 403 ? 'permission' : 'unavailable',
      `The stream of events of ${cluster} answered ${response.status}.`,
      'Grant events.follow to the token at Maestro, if you want events.'
    );
  const waiting: FoundEvent[] = [];
  const parser = createParser({
    onEvent: ({ id, data }) => {
      const event = eventSchema.safeParse(JSON.parse(data));
      if (!event.success || id === undefined) return;
      const { at, subject, kind, text } = event.data;
      waiting.push({
        id: `${cluster}/${id}`,
        at: instantFromText(at),
        resource: identityOf(cluster, subject).providerId,
        kind,
        text,
        subject
      });
    }
  });
  const decoder = new TextDecoder();
  for await (const part of response.body as unknown as AsyncIterable<Uint8Array>) {
    parser.feed(decoder.decode(part, { stream: true }));
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
