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

let manyOnes = new Float64Array(2048).fill(1);
/** Memory that holds nothing but ones. */
const onesAlone = new WeakSet<ArrayBufferLike>([manyOnes.buffer]);

/** Whether a count column is known to be all ones, by the memory that it shares. */
const isOnes = (count: Float64Array): boolean => onesAlone.has(count.buffer);

/** The count column of single readings, shared by all: not to be written to. @example ones(2) // Float64Array [1, 1] */
export function ones(length: number): Float64Array {
  if (manyOnes.length < length) {
    manyOnes = new Float64Array(length * 2).fill(1);
    onesAlone.add(manyOnes.buffer);
  }
  return manyOnes.subarray(0, length);
}

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

/**
 * The points of a half-open range, as views of the same columns. Single readings go on sharing one column for sum, min and max.
 *
 * @example slicePoints(points, 0, 60_000).at // those of the first minute
 */
export function slicePoints(
  points: SummaryPoints,
  from: number,
  to: number,
  length: number = points.at.length
): SummaryPoints {
  const first = firstAtOrAfter(points.at, length, from);
  const end = firstAtOrAfter(points.at, length, to);
  const sum = points.sum.subarray(first, end);
  return {
    at: points.at.subarray(first, end),
    sum,
    count: points.count.subarray(first, end),
    min: points.min === points.sum ? sum : points.min.subarray(first, end),
    max: points.max === points.sum ? sum : points.max.subarray(first, end)
  };
}

/**
 * Columns one behind the other; the caller knows that their instants rise. What all of them share is shared again, so that single readings take two columns.
 *
 * @example joinPoints([older, newer]).at.length // of both together
 */
export function joinPoints(parts: readonly SummaryPoints[]): SummaryPoints {
  const [only] = parts;
  if (parts.length === 1 && only) return only;
  const length = parts.reduce((sum, { at }) => sum + at.length, 0);
  const joined = (name: keyof SummaryPoints): Float64Array => {
    const column = new Float64Array(length);
    let offset = 0;
    for (const part of parts) {
      column.set(part[name], offset);
      offset += part.at.length;
    }
    return column;
  };
  const sum = joined('sum');
  const shared = parts.every((part) => part.min === part.sum && part.max === part.sum);
  return {
    at: joined('at'),
    sum,
    count: parts.every(({ count }) => isOnes(count)) ? ones(length) : joined('count'),
    min: shared ? sum : joined('min'),
    max: shared ? sum : joined('max')
  };
}
