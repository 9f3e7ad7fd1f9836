import { calendarEdges, daysOf } from './calendar';
import { duration, type Duration } from './duration';
import { instant, type Instant } from './instant';
import type { Range } from './range';

/**
 * A common time grid: `count` cells [start + i·step, start + (i+1)·step), each stamped with its start. Cells of days and weeks are those of a calendar and need not be
 * equally long: `calendar` says where each begins.
 */
export interface Grid {
  readonly start: Instant;
  readonly step: Duration;
  readonly count: number;
  readonly calendar?: Calendar;
}

/** Cells of whole days or weeks in a time zone. */
export interface Calendar {
  /** IANA zone. */
  readonly zone: string;
  /** Starts of the cells and the end of the last: `count + 1` instants. */
  readonly edges: readonly number[];
}

/** The most cells one grid may have; from, to and step come from outside and decide an allocation. */
export const mostCells = 200_000;

/**
 * The smallest grid whose cells cover a range: anchored to the epoch, or for steps of a day or a week (which begins on Monday) to the calendar of a zone.
 *
 * The first cell may begin before the range and the last end after it. An empty range gives a grid of no cells. The day on which clocks are changed is one cell of 23
 * or 25 hours.
 *
 * @param zone IANA zone of days and weeks
 * @throws RangeError when the step is 0 or above a day and not a week, or the cells would exceed {@link mostCells}
 * @example gridOver({ from: 90_000, to: 150_000 }, 60_000) // { start: 60000, step: 60000, count: 2 }
 */
export function gridOver({ from, to }: Range, step: Duration, zone = 'UTC'): Grid {
  if (daysOf(step) !== null) return calendarGrid({ from, to }, step, zone);
  if (step <= 0 || step >= 86_400_000)
    throw new RangeError(`gridOver: step must be above 0 ms and below a day, or a day or a week, got ${step}`);
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

/** Where a cell begins; that after the last is where the grid ends. @example cellStart({ start: 0, step: 60_000, count: 3 }, 2) // 120000 */
export const cellStart = ({ start, step, calendar }: Grid, index: number): Instant =>
  (calendar ? (calendar.edges[index] as number) : start + index * step) as Instant;

/**
 * The cell in which an instant lies: below 0 before the grid, `count` or more after it.
 *
 * @example cellAt({ start: 0, step: 60_000, count: 3 }, 119_999) // 1
 */
export function cellAt({ start, step, calendar }: Grid, at: number): number {
  if (!calendar) return Math.floor((at - start) / step);
  let low = 0;
  let high = calendar.edges.length;
  while (low < high) {
    const middle = (low + high) >>> 1;
    if ((calendar.edges[middle] as number) <= at) low = middle + 1;
    else high = middle;
  }
  return low - 1;
}

/** How many cells end at or before an instant. @example cellsUntil({ start: 0, step: 60_000, count: 3 }, 130_000) // 2 */
export const cellsUntil = (grid: Grid, at: number): number => Math.max(0, Math.min(grid.count, cellAt(grid, at)));

/**
 * The same cells a length of time earlier, of a calendar as many days. One that would reach before 1970 begins there.
 *
 * @example earlier({ start: 600_000, step: 60_000, count: 2 }, 120_000) // { start: 480000, step: 60000, count: 2 }
 */
export function earlier(grid: Grid, length: number): Grid {
  const { start, step, count, calendar } = grid;
  if (!calendar) return { start: instant(Math.max(0, start - length)), step, count };
  return calendarFrom(start, -Math.round(length / 86_400_000), step, count, calendar.zone);
}

/** A grid with so many cells more before it, as far as there is room for them. */
export function longer(grid: Grid, cells: number): Grid {
  const { start, step, count, calendar } = grid;
  const room = Math.min(cells, mostCells - count);
  if (!calendar) return { start: instant(Math.max(0, start - room * step)), step, count: count + room };
  return calendarFrom(start, -room * (daysOf(step) ?? 1), step, count + room, calendar.zone);
}

function calendarGrid({ from, to }: Range, step: Duration, zone: string): Grid {
  const edges = calendarEdges(from, to, daysOf(step) ?? 1, zone, mostCells);
  return { start: instant(edges[0] as number), step, count: edges.length - 1, calendar: { zone, edges } };
}

function calendarFrom(start: Instant, days: number, step: Duration, count: number, zone: string): Grid {
  const edges = calendarEdges(start, null, daysOf(step) ?? 1, zone, count, days);
  return { start: instant(edges[0] as number), step, count, calendar: { zone, edges } };
}

/** @example gridEnd({ start: 0, step: 60_000, count: 3 }) // 180000 */
export const gridEnd = (grid: Grid): Instant => cellStart(grid, grid.count);
