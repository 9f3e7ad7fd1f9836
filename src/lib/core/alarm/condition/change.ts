import { z } from 'zod';
import { cellAt, cellStart, day, durationFromText, spokenDuration, times, type Duration, type Grid } from '../../time';
import { lengthSchema } from './length';
import type { Cells, Comparison, ConditionData } from './comparison';
import type { ConditionKind } from './kind';
import { zoneOffsets } from './times';

/**
 * Rises or falls by an amount, or by a percentage, against the window just before or the same hour a day or a week earlier. What is compared are averages over windows of the length `over`.
 *
 * @example changeSchema.parse({ kind: 'change', is: 'rise', by: 50, as: 'percent', against: 'week', over: 'PT30M' })
 */
export const changeSchema = z.strictObject({
  kind: z.literal('change'),
  is: z.enum(['rise', 'fall', 'either']),
  by: z.number({ error: 'The change must be a number.' }).positive({ error: 'The change must be above 0.' }),
  as: z.enum(['amount', 'percent']),
  against: z.enum(['before', 'day', 'week']),
  over: lengthSchema
});
export type Change = z.infer<typeof changeSchema>;

/** A window needs this share of its cells to have an average. */
const leastShare = 0.5;

export const changeKind: ConditionKind<Change> = {
  needs: ({ against, over }, step) => {
    const cells = cellsOf(over, step);
    return against === 'before'
      ? { lead: 2 * cells - 1 }
      : { lead: cells - 1, earlier: times(against === 'day' ? 1 : 7, day) };
  },
  compare: (condition, data) => {
    const cells = cellsOf(condition.over, data.grid.step);
    const before = averagesBefore(condition, data, cells);
    return data.columns.map((values, of) => compared(condition, averaged(values, data.grid, cells), before(of)));
  },
  sentence: ({ is, by, as, against, over }, { limit }) => {
    const verb = { rise: 'rises', fall: 'falls', either: 'rises or falls' }[is];
    const amount = as === 'percent' ? `${by} %` : limit(by);
    const window = spokenDuration(durationFromText(over));
    const than = {
      before: `within ${window}`,
      day: `against the same ${window} a day earlier`,
      week: `against the same ${window} a week earlier`
    }[against];
    return `${verb} by more than ${amount} ${than}`;
  }
};

const averaged = (values: ArrayLike<number>, { start, step }: Grid, cells: number): Float64Array =>
  movingAverage(values, cells, Math.round(start / step));

/** The windows that are compared have at most so many cells: a day of minutes. */
export const mostComparedCells = 1440;

const cellsOf = (over: string, step: Duration): number => Math.max(1, Math.round(durationFromText(over) / step));

function compared({ is, by, as }: Change, subject: Float64Array, before: Float64Array): Comparison {
  const part = as === 'percent' ? by / 100 : 0;
  const amount = as === 'percent' ? 0 : by;
  const low = is === 'rise' ? -Infinity : before.map((value) => value - amount - part * Math.abs(value));
  const high = is === 'fall' ? Infinity : before.map((value) => value + amount + part * Math.abs(value));
  return { subject, low, high, clearLow: low, clearHigh: high, meets: 'outside' };
}

/** For each series, the averages that its cells are compared with. */
function averagesBefore(
  { against }: Change,
  { grid, columns, earlier, zone }: ConditionData,
  cells: number
): (of: number) => Float64Array {
  if (against === 'before')
    return (of) => {
      const averages = averaged(columns[of] as ArrayLike<number>, grid, cells);
      return Float64Array.from(averages, (_, i) => (i >= cells ? (averages[i - cells] as number) : NaN));
    };
  const there: Cells = earlier ?? { grid, columns };
  const places = sameHour(grid, there.grid, times(against === 'day' ? 1 : 7, day), zone);
  return (of) => {
    const averages = averaged(there.columns[of] ?? [], there.grid, cells);
    return Float64Array.from(places, (place) => averages[place] ?? NaN);
  };
}

/**
 * Where, in another grid, the cells lie that began at the same time of day so long before. On the day on which clocks are set forward, the hour that did not exist is compared with the one after it.
 */
function sameHour(grid: Grid, other: Grid, back: Duration, zone: string): Int32Array {
  const offsetAt = zoneOffsets(zone);
  const places = new Int32Array(grid.count);
  for (let i = 0; i < grid.count; i++) {
    const at = cellStart(grid, i);
    const local = at + offsetAt(at) - back;
    const guess = local - offsetAt(at - back);
    // Around the change itself, the offset of the guess need not be that of the result.
    places[i] = cellAt(other, local - offsetAt(guess));
  }
  return places;
}

/** Cells that are added up once for all windows that hold them whole. */
const blockCells = 32;

/**
 * The average of the last so many cells, at each cell; NaN where fewer than half of them have a value. Windows are made of blocks that lie on fixed places of time, so that the sum of a window does not depend, not in
 * its last digit either, on where reading begins. Cost: cells × window / 32.
 *
 * @param firstIndex number of the first cell since the epoch
 * @example movingAverage([1, 3, NaN, NaN], 2, 0) // [1, 2, 3, NaN]
 */
export function movingAverage(values: ArrayLike<number>, cells: number, firstIndex: number): Float64Array {
  const averages = new Float64Array(values.length);
  if (cells === 1) {
    for (let i = 0; i < values.length; i++) averages[i] = values[i] as number;
    return averages;
  }
  const ahead = (blockCells - (firstIndex % blockCells)) % blockCells; // cells before the first whole block
  const blocks = Math.max(0, Math.floor((values.length - ahead) / blockCells));
  const sums = new Float64Array(blocks);
  const counts = new Float64Array(blocks);
  for (let block = 0; block < blocks; block++)
    for (let i = ahead + block * blockCells; i < ahead + (block + 1) * blockCells; i++) {
      const value = values[i] as number;
      if (value !== value) continue;
      sums[block] = (sums[block] as number) + value;
      counts[block] = (counts[block] as number) + 1;
    }
  for (let i = 0; i < values.length; i++) {
    let sum = 0;
    let count = 0;
    for (let j = Math.max(0, i - cells + 1); j <= i;) {
      const block = (j - ahead) / blockCells;
      if (Number.isInteger(block) && block >= 0 && j + blockCells - 1 <= i) {
        sum += sums[block] as number;
        count += counts[block] as number;
        j += blockCells;
        continue;
      }
      const value = values[j++] as number;
      if (value !== value) continue;
      sum += value;
      count++;
    }
    averages[i] = count > 0 && count >= cells * leastShare ? sum / count : NaN;
  }
  return averages;
}
