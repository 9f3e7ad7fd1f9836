import type { TextSpan } from '../problem/problem';
import type { Instant } from '../time';
import type { FieldValue } from './search/match';
import type { FoundShape, ShownShape } from './alike';

/** Characters of a line that a list has. */
export const mostListed = 2000;

/** A line as a list shows it. */
export interface FoundLine {
  /** By which it is found again. */
  readonly key: string;
  readonly at: Instant;
  readonly nanos: number;
  readonly severity: number;
  /** What it says, at most {@link mostListed} characters of it. */
  readonly text: string;
  /** Whether it says more. */
  readonly isCut: boolean;
  readonly streamId: number;
  readonly resourceId: number | null;
  readonly shape: number;
  /** Where in the text what was looked for stands. */
  readonly marks: readonly TextSpan[];
}

/** How far a search has come. */
export interface LogProgress {
  /** The newest that are found so far, newest first. */
  readonly lines: readonly FoundLine[];
  readonly count: number;
  /** Where the first bar begins: at a whole number of their lengths, so that they stay where they are as time goes on. */
  readonly barsFrom: Instant;
  /** For each bar: lines without a severity, then of each name from trace to fatal. */
  readonly bars: readonly (readonly number[])[];
  /** What is alike among them, the most frequent first, at most `mostAlike`; and how many shapes there are in all. */
  readonly shapes: readonly FoundShape[];
  readonly shapesInAll: number;
  /** Lines of the range that are behind it, looked at or passed over. */
  readonly looked: number;
  /** Lines of the range in all, about: those of segments on its edge count whole. */
  readonly all: number;
  /** What it took, ms. */
  readonly took: number;
  readonly isDone: boolean;
}

/** A line as a page shows it, with the names of where it is from. */
export interface ShownLine extends FoundLine {
  readonly stream: string;
  readonly service: string;
  readonly account: string;
  /** The name of the resource that wrote it; empty where none was found. */
  readonly resource: string;
}

export interface ShownProgress extends Omit<LogProgress, 'lines' | 'shapes'> {
  readonly lines: readonly ShownLine[];
  readonly shapes: readonly ShownShape[];
}

/** What came of a search that goes on, since it was asked the last time. */
export interface FollowedLines {
  /** As they arrived, the last at the end. */
  readonly lines: readonly FoundLine[];
  /** Lines that matched as well and were left out: more came than could be said. */
  readonly skipped: number;
  /** Lines that were tried. */
  readonly looked: number;
}

export interface ShownFollowed extends Omit<FollowedLines, 'lines'> {
  readonly lines: readonly ShownLine[];
}

/** Lines that were found, counted by the values of a field. */
export interface LogTally {
  /** The most frequent first. */
  readonly values: readonly { readonly value: string; readonly count: number }[];
  /** Lines in all. */
  readonly count: number;
  /** Lines that have no such field. */
  readonly without: number;
  /** Lines of the values that are not among those, and how many values that are. */
  readonly others: { readonly values: number; readonly lines: number };
  /** Lines that were looked at, what it took in ms, and whether that was all. */
  readonly looked: number;
  readonly took: number;
  readonly isDone: boolean;
}

/** Whether a value is counted: an empty one says nothing. */
export const isTallied = (value: FieldValue): boolean => value !== '';
