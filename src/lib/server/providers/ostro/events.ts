import { z } from 'zod';
import { instantTextSchema } from '$lib/core/forms/instant-text';
import { unstorableIn } from '$lib/core/forms/storable';
import { instantFromText } from '$lib/core/time';
import type { FoundEvent, ProviderAccess, UnreadableEvent } from '../port/provider';
import type { OstroCalls } from './call';

/** Each is read on its own, so that one that cannot be read costs itself alone. */
const eventsSchema = z.object({ events: z.array(z.unknown()).max(10_000) });

const eventSchema = z.object({
  id: z.string().min(1).max(200),
  at: instantTextSchema,
  uri: z.string().max(300),
  kind: z.string().max(60),
  text: z.string().max(1000)
});

/** Events behind one as they are sent. */
export const eventsAfter = (
  calls: OstroCalls,
  access: ProviderAccess,
  cursor: string | null
): Promise<z.infer<typeof eventsSchema>> =>
  calls.get(access, `/v2/events${cursor === null ? '' : `?after=${encodeURIComponent(cursor)}`}`, eventsSchema);

/** Events behind one, in order. */
export async function* ostroEvents(
  calls: OstroCalls,
  access: ProviderAccess,
  cursor: string | null
): AsyncGenerator<FoundEvent | UnreadableEvent> {
  for (const one of (await eventsAfter(calls, access, cursor)).events) yield ostroEventOf(one);
}

/** One event of the list, or why it cannot be read: it does not prevent the others from being read. */
export function ostroEventOf(one: unknown): FoundEvent | UnreadableEvent {
  const named = z.object({ id: z.string().min(1).max(200) }).safeParse(one).data?.id ?? null;
  const refused = (why: string): UnreadableEvent => ({
    id: named,
    why,
    example: (JSON.stringify(one) ?? '').slice(0, 200)
  });
  const unstorable = unstorableIn(one);
  if (unstorable !== null) return refused(`${unstorable.path} ${unstorable.why}`);
  const read = eventSchema.safeParse(one);
  if (!read.success) {
    const [issue] = read.error.issues;
    return refused(`${issue?.path.join('.') || 'it'}: ${issue?.message ?? 'cannot be read'}`);
  }
  const { id, at, uri, kind, text } = read.data;
  return { id, at: instantFromText(at), resource: uri, kind, text, subject: {} };
}
