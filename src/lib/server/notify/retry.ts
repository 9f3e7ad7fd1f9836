/** The shortest and the longest pause before a message is tried again, seconds. */
const [shortestPause, longestPause] = [5, 600];

export const firstLine = (text: string): string => text.split('\n')[0] ?? '';

/** Why something failed; of a call that did not come about, the reason behind it. */
export function reasonOf(error: unknown): string {
  if (!(error instanceof Error)) return String(error);
  const { cause } = error;
  return cause instanceof Error && cause.message !== '' ? cause.message : error.message;
}

/**
 * Seconds to wait after so many tries that failed: twice as long each time, up to ten minutes, less up to half of it by chance, so that messages do not all come back at once.
 *
 * @param chance from 0 to 1
 * @example pauseAfter(2, 1) // 20
 */
export const pauseAfter = (attempts: number, chance: number): number =>
  Math.round(Math.min(longestPause, shortestPause * 2 ** Math.min(attempts, 20)) * (0.5 + chance / 2));
