import { Scratch, SortedWindow } from './order';
import { seasonColumn, type BandModel } from './model';

const hourMs = 3_600_000;

/** The level is the median of the medians of this many hours before: a shift is followed when half of them lie after it. */
export const levelHours = 24;
/** With gaps, hours up to so far back count, until there are enough. */
const farthestHours = 72;
const enoughHours = 6;

/** Where a series stood at each hour, as was known when it began. */
export interface HourLevels {
  /** Start of the first hour, ms since the epoch. */
  readonly start: number;
  /** The level for the cells of each hour, from the hours before it; NaN where none of them has values. One more than there are hours. */
  readonly before: Float64Array;
}

/**
 * The level of a series for each hour, from what came before: the median of 24 hourly medians of its values less its seasons.
 *
 * @param values of equal cells as the model's transform looks at them
 * @param start of the first cell and the length of a cell, ms
 */
export function hourLevels(
  values: ArrayLike<number>,
  start: number,
  step: number,
  seasons: Pick<BandModel, 'slot' | 'day' | 'week'>
): HourLevels {
  const first = Math.floor(start / hourMs) * hourMs;
  const count = Math.max(0, Math.ceil((start + values.length * step - first) / hourMs));
  const hours = new Float64Array(count).fill(NaN);
  const season = seasonColumn(seasons, start, step, values.length);
  const scratch = new Scratch();
  let i = 0;
  for (let h = 0; h < count; h++) {
    const end = Math.min(values.length, Math.ceil((first + (h + 1) * hourMs - start) / step));
    scratch.clear();
    for (; i < end; i++) scratch.add((values[i] as number) - (season[i] as number));
    if (scratch.count > 0) hours[h] = scratch.median();
  }
  const before = new Float64Array(count + 1);
  // The medians of the hours that count slide along in their order.
  const window = new SortedWindow(levelHours);
  for (let h = 0; h <= count; h++) {
    before[h] = window.count >= enoughHours ? window.median() : levelBefore(hours, h, scratch);
    if (h >= levelHours) window.remove(hours[h - levelHours] as number);
    if (h < count) window.add(hours[h] as number);
  }
  return { start: first, before };
}

function levelBefore(hours: Float64Array, h: number, scratch: Scratch): number {
  scratch.clear();
  let from = h - 1;
  for (; from >= 0 && h - from <= levelHours; from--) scratch.add(hours[from] as number);
  for (; from >= 0 && h - from <= farthestHours && scratch.count < enoughHours; from--)
    scratch.add(hours[from] as number);
  return scratch.count > 0 ? scratch.median() : NaN;
}
