import { z } from 'zod';
import { serviceOfType } from '$lib/core/services';
import { textFromInstant, type Clock, type Instant } from '$lib/core/time';
import { completeUntil } from '../port/lines';
import { malformed } from '../port/exchange';
import type { LineFeed, LinesPage, ProviderAccess } from '../port/provider';
import { callLevante, sendLevante } from './signed';

const sourcesSchema = z.object({ sources: z.array(z.object({ resource: z.string().min(1).max(200) })).max(5000) });
const farFuture = Date.UTC(9999, 11, 31);

/** What writes lines. */
export const lineSources = (clock: Clock, access: ProviderAccess) =>
  callLevante(clock, access, 'GET', '/v1/lines/sources', null, sourcesSchema);

/** Levante’s lines: for each resource that writes some a query over a span, page by page. */
export async function levanteLines(
  clock: Clock,
  access: ProviderAccess,
  typeOf: () => Promise<ReadonlyMap<string, string>>
): Promise<LineFeed[]> {
  const { sources } = await lineSources(clock, access);
  const types = await typeOf();
  return sources.map(({ resource }) => ({
    name: resource,
    service: serviceOfType(types.get(resource) ?? ''),
    resource,
    read: (from, to) => pages(clock, access, resource, from, to)
  }));
}

async function* pages(
  clock: Clock,
  access: ProviderAccess,
  resource: string,
  from: Instant,
  to: Instant | null
): AsyncGenerator<LinesPage> {
  const end = textFromInstant(to ?? (farFuture as Instant));
  for (let since = from; ;) {
    const answer = await sendLevante(clock, access, 'POST', '/v1/lines', {
      resource,
      from: textFromInstant(since),
      to: end
    });
    const until = completeUntil(answer, 'levante-complete-until', since);
    const isMore = answer.headers.get('levante-more') === 'yes';
    if (isMore && until <= since) throw malformed('The provider’s pages of lines lead back to themselves.');
    if (until > since) yield { body: answer.bytes, isGzip: false, until };
    if (!isMore) return;
    since = until;
  }
}
