import { mostListed, type FoundLine } from '$lib/core/logs';
import type { Instant } from '$lib/core/time';

/** What a list needs of a line. */
export type ShortLine = Pick<FoundLine, 'at' | 'nanos' | 'severity' | 'text' | 'resourceId' | 'shape'>;

/** A line as a list shows it: the beginning of a long one. */
export function listedLine(streamId: number, line: ShortLine, marks: FoundLine['marks'] = []): FoundLine {
  const { at, nanos, severity, text, resourceId, shape } = line;
  return {
    key: lineKey(streamId, line),
    ...{ at, nanos, severity, streamId, resourceId, shape, marks },
    text: text.slice(0, mostListed).toWellFormed(),
    isCut: text.length > mostListed
  };
}

/** By which a line is found again, sealed or not: its stream, its time and what it says. */
export const lineKey = (
  streamId: number,
  { at, nanos, text }: { readonly at: Instant; readonly nanos: number; readonly text: string }
): string => `${streamId}-${at}-${nanos}-${hashText(text)}`;

function hashText(text: string): string {
  let hash = 0x811c9dc5;
  for (let index = 0; index < text.length; index++) hash = Math.imul(hash ^ text.charCodeAt(index), 0x01000193);
  return (hash >>> 0).toString(36);
}

/** Something with a time in nanoseconds. */
export interface Timed {
  readonly at: number;
  readonly nanos: number;
}
/** Whether one is later than another. */
export const isNewer = (a: Timed, b: Timed): boolean => a.at > b.at || (a.at === b.at && a.nanos > b.nanos);

/** The newest of some, newest first; of the same moment the later found first. */
export function newest<One extends Timed>(all: readonly One[], most: number): One[] {
  return all.toSorted((a, b) => b.at - a.at || b.nanos - a.nanos).slice(0, most);
}
