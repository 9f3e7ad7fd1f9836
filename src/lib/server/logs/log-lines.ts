import { partsOfLines, readLines, type FoundLine, type Line } from '$lib/core/logs';
import { partOf, textsOf } from '$lib/core/logs/segment';
import type { Instant } from '$lib/core/time';
import { lineKey, listedLine } from './listed';
import type { Searched } from './log-walk';
import type { ShapedLine } from './log-head';
import type { SegmentCache } from './segment-cache';
import type { SegmentEntry } from './segments';

/** Where a line is, of what {@link lineKey} says. */
interface Place {
  readonly streamId: number;
  readonly at: Instant;
}

/** @returns null for what is no key */
export function placeOfKey(key: string): Place | null {
  const [, stream, at] = /^(\d{1,9})-(\d{1,16})-\d{1,6}-[0-9a-z]{1,7}$/.exec(key) ?? [];
  return stream === undefined || at === undefined ? null : { streamId: Number(stream), at: Number(at) as Instant };
}

/** A line by its key, whole; null when it is gone. */
export async function lineByKey(
  { heads, segments }: Searched,
  cache: SegmentCache,
  key: string
): Promise<(Line & { readonly shape: number }) | null> {
  const place = placeOfKey(key);
  if (place === null) return null;
  const isIt = (line: ShapedLine): boolean => lineKey(place.streamId, line) === key;
  const waiting = (heads.get(place.streamId) ?? []).find((line) => line.at === place.at && isIt(line));
  if (waiting !== undefined) return waiting;
  for (const segment of segments) {
    if (segment.streamId !== place.streamId || segment.from > place.at || segment.to < place.at) continue;
    const found = (await wholeLines(cache, segment, (head) => indexesAt(head.at, place.at))).find(isIt);
    if (found !== undefined) return found;
  }
  return null;
}

async function wholeLines(
  cache: SegmentCache,
  segment: SegmentEntry,
  choose: (head: { readonly at: Float64Array }) => number[]
): Promise<ShapedLine[]> {
  const summary = (await cache.summaries([segment])).get(segment.id);
  const head = (await cache.parts([{ segment, parts: [] }])).get(segment.id)?.head;
  if (summary === undefined || head === undefined) return [];
  const lines = choose(head);
  if (lines.length === 0) return [];
  const parts = (await cache.parts([{ segment, parts: partsOfLines(summary, head, lines) }])).get(segment.id)?.parts;
  return parts === undefined ? [] : readLines(summary, head, parts, lines);
}

function indexesAt(at: Float64Array, wanted: number): number[] {
  const found: number[] = [];
  for (let index = 0; index < at.length; index++) if (at[index] === wanted) found.push(index);
  return found;
}

/** Lines of some streams around a moment, the earliest first: so many before it, and so many from it on. */
export async function linesAround(
  { heads, segments }: Searched,
  cache: SegmentCache,
  wanted: { readonly streamIds: readonly number[]; readonly at: Instant; readonly each: number }
): Promise<FoundLine[]> {
  const { streamIds, at, each } = wanted;
  const found: FoundLine[] = [];
  for (const streamId of streamIds)
    for (const line of heads.get(streamId) ?? []) found.push(listedLine(streamId, line));
  const own = segments.filter((segment) => streamIds.includes(segment.streamId));
  // Those that reach the moment from either side come first; farther ones only while there are too few lines.
  const earlier = own.filter(({ from }) => from < at).sort((a, b) => b.to - a.to);
  const later = own.filter(({ to }) => to >= at).sort((a, b) => a.from - b.from);
  const read = new Set<number>();
  const take = async (segment: SegmentEntry): Promise<void> => {
    if (read.has(segment.id)) return;
    read.add(segment.id);
    found.push(...(await shortLines(cache, segment)));
  };
  for (const segment of earlier) {
    const kept = newestBefore(found, at, each);
    if (kept.length === each && (kept[0]?.at ?? 0) > segment.to) break;
    await take(segment);
  }
  for (const segment of later) {
    const kept = oldestFrom(found, at, each);
    if (kept.length === each && (kept.at(-1)?.at ?? 0) < segment.from) break;
    await take(segment);
  }
  return [...newestBefore(found, at, each), ...oldestFrom(found, at, each)];
}

const inOrder = (lines: readonly FoundLine[]): FoundLine[] =>
  lines.toSorted((a, b) => a.at - b.at || a.nanos - b.nanos);
const newestBefore = (lines: readonly FoundLine[], at: Instant, most: number): FoundLine[] =>
  inOrder(lines.filter((line) => line.at < at)).slice(-most);
const oldestFrom = (lines: readonly FoundLine[], at: Instant, most: number): FoundLine[] =>
  inOrder(lines.filter((line) => line.at >= at)).slice(0, most);

/** All lines of a segment, without their fields. */
async function shortLines(cache: SegmentCache, segment: SegmentEntry): Promise<FoundLine[]> {
  const summary = (await cache.summaries([segment])).get(segment.id);
  if (summary === undefined) return [];
  const all = [...new Set(summary.groups.map(({ part }) => partOf(part)))];
  const read = (await cache.parts([{ segment, parts: all }])).get(segment.id);
  if (read === undefined) return [];
  const { head, parts } = read;
  const texts = textsOf(summary, head, parts);
  return Array.from(head.at, (at, index) => {
    const { text, shape } = texts(index);
    return listedLine(segment.streamId, {
      ...{ at: at as Instant, nanos: head.nanos[index] ?? 0, text, shape },
      severity: head.severity[index] ?? 0,
      resourceId: head.resource[index] === 0 ? null : (head.resource[index] ?? null)
    });
  });
}
