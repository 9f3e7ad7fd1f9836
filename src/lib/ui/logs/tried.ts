import type { TextSpan } from '$lib/core/problem/problem';

/** A stored line on which a rule would have acted. */
export interface TriedLine {
  readonly key: string;
  readonly text: string;
  /** What would have been masked. */
  readonly marks: readonly TextSpan[];
  /** What would have been stored; null for nothing. */
  readonly stored: string | null;
}

/** What a rule would have done to stored lines. */
export interface Tried {
  /** Lines that were looked at, and how many of them it would have acted on. */
  readonly tried: number;
  readonly hits: number;
  readonly examples: readonly TriedLine[];
}
