import { pointsOfLength, type SummaryPoints } from '$lib/core/series';

/** One point as it came: an instant in milliseconds, sum, count, min, max. */
export type RawPoint = readonly [at: number, sum: number, count: number, min: number, max: number];

/** Finite numbers, an instant within the years we know, a count above zero. NaN and infinities never enter. */
export const isSound = (point: readonly unknown[]): point is RawPoint =>
  point.length === 5 &&
  point.every((part) => typeof part === 'number' && Number.isFinite(part)) &&
  Number.isInteger(point[0]) &&
  (point[0] as number) > 0 &&
  (point[0] as number) < 253_402_300_799_000 &&
  (point[2] as number) > 0 &&
  (point[3] as number) <= (point[4] as number);

/** Sound points as sorted columns; of equal instants the last stays. */
export function columnsOf(points: readonly RawPoint[]): SummaryPoints {
  const rising = points.every((point, i) => i === 0 || point[0] > (points[i - 1] as RawPoint)[0]);
  const sorted = rising
    ? points
    : [...new Map(points.map((point) => [point[0], point])).values()].sort((a, b) => a[0] - b[0]);
  const columns = pointsOfLength(sorted.length);
  sorted.forEach(([at, sum, count, min, max], i) => {
    columns.at[i] = at;
    columns.sum[i] = sum;
    columns.count[i] = count;
    columns.min[i] = min;
    columns.max[i] = max;
  });
  return columns;
}

/** A single reading. */
export const reading = (at: number, value: number): RawPoint => [at, value, 1, value, value];
