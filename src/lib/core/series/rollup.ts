import { duration, type Duration } from '../time';
import { pointsOfLength, type SummaryPoints } from './points';

/** Lengths of the cells that samples are rolled up to, finest first: 5 minutes and 1 hour. */
export const rollupSteps: readonly Duration[] = [duration(300_000), duration(3_600_000)];

/**
 * Rolls points up: one summary point for each cell, anchored to the epoch, that has any. Sums are compensated (Neumaier 1974), so that rolling up and adding
 * up give what adding all points gives.
 *
 * @param points sorted columns of one series; only [first, end) of them are looked at
 * @example rollUp(points, duration(300_000)).at // the starts of the 5-minute cells that hold points
 */
export function rollUp(
  points: SummaryPoints,
  step: Duration,
  first = 0,
  end: number = points.at.length
): SummaryPoints {
  const { at } = points;
  let cells = 0;
  let last = NaN;
  for (let i = first; i < end; i++) {
    const cell = Math.floor((at[i] as number) / step);
    if (cell !== last) cells++;
    last = cell;
  }
  const out = pointsOfLength(cells);
  let index = first;
  for (let cell = 0; cell < cells; cell++) {
    const start = Math.floor((at[index] as number) / step) * step;
    let sum = 0;
    let lost = 0;
    let count = 0;
    let min = points.min[index] as number;
    let max = points.max[index] as number;
    for (; index < end && (at[index] as number) < start + step; index++) {
      const value = points.sum[index] as number;
      const next = sum + value;
      lost += Math.abs(sum) >= Math.abs(value) ? sum - next + value : value - next + sum;
      sum = next;
      count += points.count[index] as number;
      if ((points.min[index] as number) < min) min = points.min[index] as number;
      if ((points.max[index] as number) > max) max = points.max[index] as number;
    }
    out.at[cell] = start;
    out.sum[cell] = sum + lost;
    out.count[cell] = count;
    out.min[cell] = min;
    out.max[cell] = max;
  }
  return out;
}
