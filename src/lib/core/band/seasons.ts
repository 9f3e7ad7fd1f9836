import type { Duration, Grid } from '../time';
import { hourOfWeekAt } from './model';
import { sampled, Scratch, sortedQuantile } from './order';

const dayMs = 86_400_000;
const hourMs = 3_600_000;
const hoursOfWeek = 168;

/** Slots of equal length with the median of their values. */
export interface Slots {
  readonly start: number;
  readonly slot: Duration;
  readonly values: Float64Array;
}

const slotOfDay = ({ start, slot }: Slots, i: number): number => Math.floor(((start + i * slot) % dayMs) / slot);

/** The medians of slots, of cells that are as long or shorter. */
export function slotMedians(cells: Float64Array, grid: Grid, slot: Duration): Slots {
  const start = Math.floor(grid.start / slot) * slot;
  if (slot === grid.step) return { start, slot, values: cells };
  const count = Math.ceil((grid.start + cells.length * grid.step - start) / slot);
  const values = new Float64Array(count).fill(NaN);
  const scratch = new Scratch();
  const few = new Float64Array(fewCells);
  const first = start - grid.start;
  let i = 0;
  for (let s = 0; s < count; s++) {
    const end = Math.min(cells.length, Math.round((first + (s + 1) * slot) / grid.step));
    if (end - i <= fewCells) values[s] = medianOfFew(cells, i, end, few);
    else {
      scratch.clear();
      for (; i < end; i++) scratch.add(cells[i] as number);
      if (scratch.count > 0) values[s] = scratch.median();
    }
    i = end;
  }
  return { start, slot, values };
}

/** Cells of a slot that are put in order as they are read. */
const fewCells = 8;

/** The median of five cells without a jump (Devillard 1998), as there are minutes in a slot; NaN when one of them is a gap. */
function medianOfFive(cells: Float64Array, from: number): number {
  const { min, max } = Math;
  const [a, b, c] = [cells[from] as number, cells[from + 1] as number, cells[from + 2] as number];
  const [d, e] = [cells[from + 3] as number, cells[from + 4] as number];
  const low = max(min(a, b), min(c, d));
  const high = min(max(a, b), max(c, d));
  return max(min(e, low), min(max(e, low), high));
}

/** The median of cells [from, to), gaps left out; NaN of none. @param room for all of them */
function medianOfFew(cells: Float64Array, from: number, to: number, room: Float64Array): number {
  if (to - from === 5) {
    const median = medianOfFive(cells, from);
    if (median === median) return median;
  }
  let count = 0;
  for (let i = from; i < to; i++) {
    const value = cells[i] as number;
    if (value !== value) continue;
    let place = count++;
    while (place > 0 && (room[place - 1] as number) > value) {
      room[place] = room[place - 1] as number;
      place--;
    }
    room[place] = value;
  }
  return sortedQuantile(room, count, 0.5);
}

/** Slots less their level: a median over seven days of daily medians, joined between the middles of the days. */
export function lessSevenDayLevel({ values, slot, start }: Slots): Float64Array {
  const perDay = dayMs / slot;
  const firstDay = Math.floor(start / dayMs);
  const dayCount = Math.floor((start + (values.length - 1) * slot) / dayMs) - firstDay + 1;
  const dayMedians = new Float64Array(dayCount).fill(NaN);
  const scratch = new Scratch();
  for (let d = 0; d < dayCount; d++) {
    scratch.clear();
    const from = Math.max(0, Math.round(((firstDay + d) * dayMs - start) / slot));
    const to = Math.min(values.length, from + perDay);
    for (let i = from; i < to; i++) scratch.add(values[i] as number);
    if (scratch.count >= perDay / 2) dayMedians[d] = scratch.median();
  }
  const level = new Float64Array(dayCount);
  for (let d = 0; d < dayCount; d++) {
    // Always seven days where there are so many, so that each day of the week is among them once.
    const from = Math.max(0, Math.min(d - 3, dayCount - 7));
    scratch.clear();
    for (let other = from; other < Math.min(dayCount, from + 7); other++) scratch.add(dayMedians[other] as number);
    level[d] = scratch.count > 0 ? scratch.median() : NaN;
  }
  const overall = sampled(level, 400).median();
  const known = (d: number) => {
    const value = level[Math.max(0, Math.min(dayCount - 1, d))] as number;
    return value === value ? value : overall === overall ? overall : 0;
  };
  const less = new Float64Array(values.length);
  let d = NaN;
  let [before, after] = [0, 0];
  for (let i = 0; i < values.length; i++) {
    const place = (start + i * slot) / dayMs - firstDay - 0.5;
    const of = Math.floor(place);
    if (of !== d) {
      d = of;
      before = known(d);
      after = known(d + 1);
    }
    less[i] = (values[i] as number) - before - (after - before) * (place - d);
  }
  return less;
}

/** Slots less the profile of a day. */
export function lessProfile(values: Float64Array, slots: Slots, profile: Float64Array): Float64Array {
  const left = new Float64Array(values.length);
  let s = slotOfDay(slots, 0);
  for (let i = 0; i < values.length; i++) {
    left[i] = (values[i] as number) - (profile[s] as number);
    if (++s === profile.length) s = 0;
  }
  return left;
}

/** The median of each slot of the day, over all days; empty when it does not stand out. */
export function dayProfile(less: Float64Array, slots: Slots): Float64Array {
  const perDay = dayMs / slots.slot;
  const profile = new Float64Array(perDay).fill(NaN);
  const offset = slotOfDay(slots, 0);
  const scratch = new Scratch();
  for (let s = 0; s < perDay; s++) {
    scratch.clear();
    for (let i = (s - offset + perDay) % perDay; i < less.length; i += perDay) scratch.add(less[i] as number);
    if (scratch.count > 0) profile[s] = scratch.median();
  }
  fillGaps(profile);
  return standsOut(profile, lessProfile(less, slots, profile), less.length / perDay) ? profile : new Float64Array(0);
}

/** The median of each hour of the week of what the day leaves over; empty when it does not stand out. */
export function weekProfile(left: Float64Array, { start, slot }: Slots): Float64Array {
  const hours = Array.from({ length: hoursOfWeek }, () => new Scratch());
  const perHour = hourMs / slot;
  const first = hourOfWeekAt(start) * perHour + Math.floor((start % hourMs) / slot);
  const hourOf = (i: number) => (((first + i) / perHour) | 0) % hoursOfWeek;
  for (let i = 0; i < left.length; i++) hours[hourOf(i)]?.add(left[i] as number);
  const profile = Float64Array.from(hours, (hour) => (hour.count > 0 ? hour.median() : NaN));
  fillGaps(profile);
  const after = new Float64Array(left.length);
  for (let i = 0; i < left.length; i++) after[i] = (left[i] as number) - (profile[hourOf(i)] as number);
  // Values within an hour are alike: what counts is the number of weeks, and how many values an hour has where there are few.
  const weeks = (left.length * slot) / (hoursOfWeek * hourMs);
  const each = Math.min(weeks * 2, Math.max(weeks, left.length / hoursOfWeek));
  return standsOut(profile, after, each) ? profile : new Float64Array(0);
}

/** Whether a profile varies more than medians of so many values that only stray would. */
function standsOut(profile: Float64Array, left: Float64Array, each: number): boolean {
  const stray = spreadOf(left);
  const chance = (1.2533 * stray) / Math.sqrt(Math.max(1, each));
  return spreadOf(profile) > 1.5 * chance || rangeOf(profile) > 6 * chance;
}

const rangeOf = (profile: Float64Array): number => {
  const scratch = sampled(profile, 500);
  return scratch.quantile(0.98) - scratch.quantile(0.02);
};

/** The scaled distance of the quartiles. */
function spreadOf(values: Float64Array): number {
  const scratch = sampled(values, 500);
  return (scratch.quantile(0.75) - scratch.quantile(0.25)) / 1.349;
}

/** Slots without values get those of their neighbours, around the end. */
function fillGaps(profile: Float64Array): void {
  const n = profile.length;
  for (let i = 0; i < n; i++) {
    if (profile[i] === profile[i]) continue;
    let found = 0;
    for (let step = 1; step < n && found === 0; step++) {
      const before = profile[(i - step + n) % n] as number;
      const after = profile[(i + step) % n] as number;
      if (before === before) found = before;
      else if (after === after) found = after;
      else continue;
      break;
    }
    profile[i] = found;
  }
}
