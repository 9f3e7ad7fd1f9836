import fc from 'fast-check';
import { pointsOfLength, type SummaryPoints } from '../../src/lib/core/series';

/** One summary point as a row. */
export interface Point {
  at: number;
  sum: number;
  count: number;
  min: number;
  max: number;
}

/** Columns from rows in the order of their instants; of equal instants the last stays. */
export function columnsOf(points: readonly Point[]): SummaryPoints {
  const rows = [...new Map(points.map((point) => [point.at, point])).values()].sort((a, b) => a.at - b.at);
  const columns = pointsOfLength(rows.length);
  rows.forEach((row, i) =>
    (['at', 'sum', 'count', 'min', 'max'] as const).forEach((name) => (columns[name][i] = row[name]))
  );
  return columns;
}

/** Any summary point of whole numbers, so that sums of them are exact. */
export const point = fc
  .record({
    at: fc.nat(1000),
    count: fc.integer({ min: 1, max: 12 }),
    values: fc.array(fc.integer({ min: -1_000_000, max: 1_000_000 }), { minLength: 1, maxLength: 4 })
  })
  .map(({ at, count, values }): Point => ({
    at,
    count,
    sum: values.reduce((a, b) => a + b, 0),
    min: Math.min(...values),
    max: Math.max(...values)
  }));
