import type { Range } from '$lib/core/time';
import { between } from './in-span';
import type { Searched } from './log-walk';
import type { SegmentCache } from './segment-cache';

/** Names that are said, the most frequent. */
const mostNames = 200;
/** Segments of which summaries are looked at, the newest: what lines are like seldom changes. */
const mostSegments = 400;
/** Lines of a stream that are not sealed and are looked at. */
const mostWaiting = 500;

/** Names of the fields that lines of a range have, those of the most lines first; of many segments, the newest are looked at. */
export async function namesOfFields(
  { streams, heads, segments }: Searched,
  cache: SegmentCache,
  { from, to }: Range,
  accounts: readonly number[] | null
): Promise<{ name: string; lines: number }[]> {
  const counts = new Map<string, number>();
  const add = (name: string, lines: number): void => {
    if (name !== '') counts.set(name, (counts.get(name) ?? 0) + lines);
  };
  const isSeen = (streamId: number): boolean => {
    const stream = streams.get(streamId);
    return stream !== undefined && (accounts === null || accounts.includes(stream.accountId));
  };
  for (const [streamId, lines] of heads)
    if (isSeen(streamId))
      for (const { fields, origin } of between(lines, from, to).slice(-mostWaiting))
        for (const all of [fields, origin.scope.fields, origin.resource])
          for (const name of Object.keys(all)) add(name, 1);
  const wanted = segments
    .filter((segment) => segment.to >= from && segment.from < to && isSeen(segment.streamId))
    .sort((a, b) => b.to - a.to)
    .slice(0, mostSegments);
  for (const { fields, origins, lines } of (await cache.summaries(wanted)).values()) {
    for (const { name, lines: having } of fields) add(name, having);
    for (const { resource, scope } of origins)
      for (const all of [resource, scope.fields])
        for (const name of Object.keys(all)) add(name, lines / origins.length);
  }
  return [...counts]
    .map(([name, lines]) => ({ name, lines: Math.round(lines) }))
    .sort((a, b) => b.lines - a.lines || (a.name < b.name ? -1 : 1))
    .slice(0, mostNames);
}
