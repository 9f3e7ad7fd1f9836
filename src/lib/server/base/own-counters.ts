/** What a process counts of its own work, since it began. */
export const countedWork = [
  'requests',
  'requests.failed',
  'queries',
  'statements',
  'pulls',
  'pulls.failed',
  'pages',
  'pages.failed',
  'pages.late',
  'judgings',
  'messages.sent',
  'messages.failed',
  'samples'
] as const;
export type CountedWork = (typeof countedWork)[number];

/** Work whose time is added up, s. */
export const timedWork = ['requests', 'queries', 'statements', 'pulls', 'judgings'] as const;
export type TimedWork = (typeof timedWork)[number];

const counts = new Map<CountedWork, number>();
const seconds = new Map<TimedWork, number>();

/** Counts work of this process. @example count('samples', 1200) */
export const count = (work: CountedWork, times = 1): void => void counts.set(work, countOf(work) + times);

/** How often work was done in this process. */
export const countOf = (work: CountedWork): number => counts.get(work) ?? 0;

/** How long this process has spent on work, s. */
export const secondsOf = (work: TimedWork): number => seconds.get(work) ?? 0;

/**
 * Does work, counts it and adds up how long it took, also when it fails.
 *
 * @example await timed('queries', () => evaluate(query))
 */
export async function timed<Result>(name: TimedWork, work: () => Promise<Result>): Promise<Result> {
  const begun = performance.now();
  try {
    return await work();
  } finally {
    count(name);
    seconds.set(name, secondsOf(name) + (performance.now() - begun) / 1000);
  }
}
