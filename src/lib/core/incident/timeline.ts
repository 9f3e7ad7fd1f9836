import type { Severity } from '../alarm';
import type { Instant } from '../time';

/** What kinds of things happen around an incident; of what happened at the same moment, in this order. */
export const timelineKinds = [
  'mark',
  'event',
  'incident',
  'state',
  'held',
  'message',
  'person',
  'response',
  'note'
] as const;
export type TimelineKind = (typeof timelineKinds)[number];

/** Something that happened around an incident. */
export interface TimelineEntry {
  readonly at: Instant;
  readonly kind: TimelineKind;
  /** In one sentence; of a note, its CommonMark. */
  readonly text: string;
  /** Whoever did it, or what says more. */
  readonly aside: string;
  /** Of a state: as how grave it was raised; null for clear, and for all else. */
  readonly severity: Severity | null;
  /** Whether something went wrong with it, such as a message that was not taken. */
  readonly isFault: boolean;
}

/**
 * A timeline in order; of what happened at the same moment, what was decided comes before what follows from it.
 *
 * @example inOrder(entries)[0].kind // 'mark'
 */
export const inOrder = (entries: readonly TimelineEntry[]): TimelineEntry[] =>
  entries.toSorted((a, b) => a.at - b.at || timelineKinds.indexOf(a.kind) - timelineKinds.indexOf(b.kind));
