import type { Instant } from '$lib/core/time';

/** How the lines of a service arrive: those of the last day, and how far they are read. */
export interface ArrivingLines {
  readonly lines: number;
  readonly bytes: number;
  readonly leftOut: number;
  readonly refused: number;
  /** What writes them at the provider. */
  readonly feeds: number;
  /** How far back all of them are here; null where nothing is read. */
  readonly historyTo: Instant | null;
  /** Where the history begins that is wanted. */
  readonly historyFrom: Instant;
  readonly lastError: { readonly message: string; readonly remedy: string } | null;
}
