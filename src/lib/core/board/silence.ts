import { after, duration, type Instant } from '../time';

/** How samples of one series of a resource arrive. */
export interface Reports {
  /** Start of its newest sample; null when it never had one. */
  readonly newest: Instant | null;
  /** How far apart its samples are, how late they come, and how often they are requested, ms. */
  readonly samplingMs: number;
  readonly delayMs: number;
  readonly everyMs: number;
}

/** Series whose samples take at most this many times as long as those of the promptest count as prompt as it. */
const asPrompt = 1.5;

/**
 * When the next sample of a resource should have been there at the latest. Its promptest series decide: while one of them reports, so does the resource, and slow ones do
 * not hide that they have stopped.
 *
 * @returns null when nothing of it ever arrived
 * @example dueBy([{ newest: at('14:00'), samplingMs: 3_600_000, delayMs: 21_600_000, everyMs: 60_000 }]) // 21:01, not a few minutes after 14:00
 */
export function dueBy(series: readonly Reports[]): Instant | null {
  const seen = series.filter(({ newest }) => newest !== null);
  if (seen.length === 0) return null;
  const takes = ({ samplingMs, delayMs, everyMs }: Reports): number => samplingMs + delayMs + everyMs;
  const least = Math.min(...seen.map(takes));
  const due = seen
    .filter((one) => takes(one) <= least * asPrompt)
    .map((one) => after(one.newest as Instant, duration(takes(one))));
  return Math.max(...due) as Instant;
}
