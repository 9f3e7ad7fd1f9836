/** What computing one of several signals took by itself, ms, and how many samples were read for it. */
interface Own {
  readonly milliseconds: number;
  readonly points: number;
}

/**
 * How long each of several signals took that were computed together, ms: its own time, and of what they share a part by the samples that were read for it.
 *
 * @param together how long all of them took, ms
 * @example sharedTime([{ milliseconds: 1, points: 30 }, { milliseconds: 1, points: 10 }], 6) // [4, 2]
 */
export function sharedTime(all: readonly Own[], together: number): number[] {
  const sumOf = (of: keyof Own): number => all.reduce((sum, one) => sum + one[of], 0);
  const reading = Math.max(0, together - sumOf('milliseconds'));
  const points = sumOf('points');
  return all.map((one) => one.milliseconds + reading * (points === 0 ? 1 / all.length : one.points / points));
}
