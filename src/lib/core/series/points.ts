/**
 * The samples of one series as columns of equal length, sorted by instant, no instant twice. Each is a *summary point*: it
 * stands for `count` readings taken in the sampling interval that begins at `at`. A single reading has count 1 and sum = min = max.
 */
export interface SummaryPoints {
  /** Instants, milliseconds since the epoch, strictly rising. */
  readonly at: Float64Array;
  readonly sum: Float64Array;
  readonly count: Float64Array;
  readonly min: Float64Array;
  readonly max: Float64Array;
}

/** @example noPoints().at.length // 0 */
export const noPoints = (): SummaryPoints => pointsOfLength(0);

/** Columns of zeros to be filled. @example pointsOfLength(2).sum // Float64Array [0, 0] */
export const pointsOfLength = (length: number): SummaryPoints => ({
  at: new Float64Array(length),
  sum: new Float64Array(length),
  count: new Float64Array(length),
  min: new Float64Array(length),
  max: new Float64Array(length)
});

/**
 * The index of the first sample at or after an instant; the length when there is none. O(log n).
 *
 * @example firstAtOrAfter(Float64Array.of(10, 20, 30), 3, 15) // 1
 */
export function firstAtOrAfter(at: Float64Array, length: number, wanted: number): number {
  let low = 0;
  let high = length;
  while (low < high) {
    const middle = (low + high) >>> 1;
    if ((at[middle] as number) < wanted) low = middle + 1;
    else high = middle;
  }
  return low;
}
