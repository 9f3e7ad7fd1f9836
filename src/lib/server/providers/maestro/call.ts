import { z } from 'zod';
import { readExposition, type Exposition } from '$lib/core/openmetrics';
import type { Clock } from '$lib/core/time';
import { exchange, exchangeJson, malformed } from '../port/exchange';
import type { ProviderAccess } from '../port/provider';

const clustersSchema = z.object({
  clusters: z.array(
    z.object({
      id: z.string().min(1).max(100),
      title: z.string().min(1).max(200),
      location: z.string().max(60),
      workloadMetrics: z.boolean()
    })
  )
});
export type Cluster = z.infer<typeof clustersSchema>['clusters'][number];

/** A request with the token. */
export const authorised =
  ({ secret }: ProviderAccess, method = 'GET') =>
  () => ({ method, headers: { authorization: `Bearer ${secret}` } });

/** The clusters that the token may see. */
export async function clustersOf(clock: Clock, access: ProviderAccess): Promise<Cluster[]> {
  return (await exchangeJson(clock, access, '/clusters', authorised(access), clustersSchema)).clusters;
}

/**
 * Reads one page of a cluster: what is true now, or with a query what it kept. One that is cut off is requested again.
 *
 * @throws ProviderError
 */
export async function scrape(
  clock: Clock,
  access: ProviderAccess,
  { id }: Pick<Cluster, 'id'>,
  query = ''
): Promise<Exposition> {
  const path = `/clusters/${encodeURIComponent(id)}/${query === '' ? 'metrics' : 'kept'}${query}`;
  return access.guard.run(async () => {
    // The guard of one call inside another's would count it twice: this one only tries again when the page is cut short.
    const text = await exchange(
      clock,
      { ...access, guard: { meter: access.guard.meter, run: (call) => call() } },
      path,
      authorised(access)
    );
    const read = readExposition(text);
    if (!read.complete) throw malformed(`The page of ${id} has no end: a part of it is missing.`);
    return read;
  });
}
