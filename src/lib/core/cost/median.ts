/** The middle of some values, of an even number the mean of both in the middle; NaN of none. @example median([3, 1, 2]) // 2 */
export function median(values: readonly number[]): number {
  const sorted = [...values].sort((a, b) => a - b);
  const half = sorted.length >> 1;
  if (sorted.length % 2 === 1) return sorted[half] as number;
  return ((sorted[half - 1] ?? NaN) + (sorted[half] ?? NaN)) / 2;
}
