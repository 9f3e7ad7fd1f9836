import { z } from 'zod';
import { serviceOfType } from '$lib/core/services';
import { textFromInstant, type Clock, type Instant } from '$lib/core/time';
import { completeUntil, onceMade } from '../port/lines';
import type { LineFeed, LinesPage, ProviderAccess } from '../port/provider';
import type { OstroCalls } from './call';

const thingsSchema = z.object({ things: z.array(z.string().min(1).max(300)).max(5000) });
const orderSchema = z.object({ id: z.string().min(1).max(500) });

/** What writes lines. */
export const thingsThatWrite = (calls: OstroCalls, access: ProviderAccess) =>
  calls.get(access, '/v2/exports', thingsSchema);

/** Ostro’s lines: an export is ordered for a thing and a span, made after a while, and fetched as a packed file. */
export async function ostroLines(calls: OstroCalls, clock: Clock, access: ProviderAccess): Promise<LineFeed[]> {
  const { things } = await thingsThatWrite(calls, access);
  return things.map((uri) => ({
    name: uri,
    service: serviceOfType(uri.split('/')[1] ?? ''),
    resource: uri,
    read: (from, to, signal) => exports(calls, clock, access, uri, from, to, signal)
  }));
}

async function* exports(
  calls: OstroCalls,
  clock: Clock,
  access: ProviderAccess,
  uri: string,
  from: Instant,
  to: Instant | null,
  signal: AbortSignal
): AsyncGenerator<LinesPage> {
  const end = to ?? clock.now();
  for (let since = from; since < end;) {
    const order = { uri, since: textFromInstant(since), until: textFromInstant(end) };
    const { id } = await calls.get(access, '/v2/exports', orderSchema, 'POST', order);
    const page = await fetched(calls, access, id, since, signal);
    if (page.until <= since) return; // there is none yet that is complete
    yield page;
    since = page.until;
  }
}

async function fetched(
  calls: OstroCalls,
  access: ProviderAccess,
  id: string,
  since: Instant,
  signal: AbortSignal
): Promise<LinesPage> {
  const path = `/v2/exports/file?id=${encodeURIComponent(id)}`;
  const answer = await onceMade(() => calls.bytes(access, path), 202, signal);
  return { body: answer.bytes, isGzip: true, until: completeUntil(answer, 'ostro-complete-until', since) };
}
