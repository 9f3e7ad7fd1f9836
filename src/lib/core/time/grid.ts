import { duration, type Duration } from './duration';
import { instant, type Instant } from './instant';
import type { Range } from './range';

/** A common time grid: `count` cells [start + i·step, start + (i+1)·step), each stamped with its start. */
export interface Grid {
  readonly start: Instant;
  readonly step: Duration;
  readonly count: number;
}

/** The most cells one grid may have; from, to and step come from outside and decide an allocation. */
export const mostCells = 200_000;

/**
 * The smallest grid, anchored to the epoch, whose cells cover a range.
 *
 * The first cell may begin before the range and the last end after it. An empty range gives a grid of no cells.
 * Steps of a day and more are to follow the reader's calendar; they are not made here.
 *
 * @throws RangeError when the step is 0 or a day or more, or the cells would exceed {@link mostCells}
 * @example gridOver({ from: 90_000, to: 150_000 }, 60_000) // { start: 60000, step: 60000, count: 2 }
 */
export function gridOver({ from, to }: Range, step: Duration): Grid {
  if (step <= 0 || step >= 86_400_000)
    throw new RangeError(`gridOver: step must be above 0 ms and below a day, got ${step}`);
  const start = instant(Math.floor(from / step) * step);
  const count = from === to ? 0 : Math.ceil((to - start) / step);
  if (count > mostCells)
    throw new RangeError(
      `gridOver: ${count} cells asked for, at most ${mostCells}; the shortest step is ${shortestStep({ from, to }, mostCells)} ms`
    );
  return { start, step, count };
}

/** Steps people read easily, in milliseconds: 1 s to 12 h. */
const readableSteps = [1, 2, 5, 10, 15, 30, 60, 120, 300, 600, 900, 1200, 1800, 3600, 7200, 10_800, 21_600, 43_200].map(
  (seconds) => duration(seconds * 1000)
);

/**
 * The shortest readable step that covers a range in at most so many cells; 12 h when none does.
 *
 * @example shortestStep({ from: 0, to: 10_800_000 }, 360) // 30000
 */
export function shortestStep(span: Range, most: number): Duration {
  return readableSteps.find((step) => (span.to - span.from) / step <= most) ?? duration(43_200_000);
}

/** @example cellStart({ start: 0, step: 60_000, count: 3 }, 2) // 120000 */
export const cellStart = ({ start, step }: Grid, index: number): Instant => (start + index * step) as Instant;

/** @example gridEnd({ start: 0, step: 60_000, count: 3 }) // 180000 */
export const gridEnd = (grid: Grid): Instant => cellStart(grid, grid.count);
