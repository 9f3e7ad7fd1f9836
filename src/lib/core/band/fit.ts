import { cellStart, duration, type Grid, type Range } from '../time';
import { chooseTransform } from './choose-transform';
import { hourLevels, levelHours, type HourLevels } from './levels';
import type { BandModel, Season } from './model';
import { dayProfile, lessProfile, lessSevenDayLevel, slotMedians, weekProfile, type Slots } from './seasons';
import { transformedColumn, type Transform } from './transform';
import { widths } from './widths';

/** What a band is fitted with. */
export interface BandOptions {
  /** Spans that are left out of what is learned: marked ones, and past incidents. */
  readonly exclude?: readonly Range[];
  /** That the values never leave, such as 0 and 100 of a percentage. */
  readonly bounds?: readonly [number, number] | null;
  /** The transform, when it is known; chosen by the values otherwise. */
  readonly transform?: Transform;
}

const dayMs = 86_400_000;
const hourMs = 3_600_000;
/** The shortest slot of the day. */
const leastSlot = 300_000;
/** With fewer days of values no season of the day is looked for, with fewer than the second none of the week. */
const leastDays = 3;
const leastWeekDays = 14;

/**
 * Learns the anomaly band of one series. A robust decomposition in the manner of Cleveland's seasonal-trend decomposition (STL, 1990) with medians in place of local regressions: the profile of a day is the median over all
 * days of each slot, that of a week the median of each of its hours of what the day leaves over, both taken from the values less a median over seven days, so that trends and shifts do not enter. A season is used only if it
 * stands out from what chance would make. Its widths are robust deviations of what would have been expected at the time (season + the median of the last 24 hourly medians), by hour of the day,
 * apart for above and below; they are as wide as the outer of the scaled quartile and 90th percentile, so that heavy tails make it wider and a few days of trouble do not. Cost: cells, and a sort of them.
 *
 * @param values of whole cells, a gap is NaN
 * @returns null when fewer than a day's cells have values
 */
export function fitBand(values: ArrayLike<number>, grid: Grid, options: BandOptions = {}): BandModel | null {
  const perDay = Math.max(1, Math.round(dayMs / grid.step));
  const kept = withoutSpans(values, grid, options.exclude ?? []);
  const transform = options.transform ?? chooseTransform(kept, perDay, options.bounds ?? null);
  const cells = transformedColumn(transform, kept);
  const slot = duration(Math.max(leastSlot, grid.step));
  const slots = slotMedians(cells, grid, slot);
  let known = 0;
  for (const value of slots.values) if (value === value) known++;
  const perSlotDay = dayMs / slot;
  const days = known / perSlotDay;
  if (days < 0.5) return null;

  const less = lessSevenDayLevel(slots);
  // Slots that do not fit into a day have no place in it.
  const day = days >= leastDays && dayMs % slot === 0 ? dayProfile(less, slots) : new Float64Array(0);
  const left = day.length === 0 ? less : lessProfile(less, slots, day);
  // Of longer cells, four weeks have too few at each hour of the week to tell a season from chance.
  const mayHaveWeek = day.length > 0 && days >= leastWeekDays && slot <= hourMs;
  const week = mayHaveWeek ? weekProfile(left, slots) : new Float64Array(0);
  const seasons = { slot, day, week };
  const season: Season = week.length > 0 ? 'week' : day.length > 0 ? 'day' : 'none';

  const levels = historyLevels(slots, seasons);
  const { below, above } = widths(cells, grid, seasons, levels, transform, kept);
  const until = cellStart(grid, grid.count);
  return {
    transform,
    ...seasons,
    below,
    above,
    level: levels.before.at(-1) ?? NaN,
    season,
    until,
    days: Math.round(days * 10) / 10
  };
}

function withoutSpans(values: ArrayLike<number>, grid: Grid, spans: readonly Range[]): ArrayLike<number> {
  if (spans.length === 0) return values;
  const kept = Float64Array.from(values);
  for (const { from, to } of spans) {
    const first = Math.max(0, Math.floor((from - grid.start) / grid.step));
    const end = Math.min(kept.length, Math.ceil((to - grid.start) / grid.step));
    if (first < end) kept.fill(NaN, first, end);
  }
  return kept;
}

/** The levels of a history: its first hours, which have nothing before them, stand where the first day stands. */
function historyLevels({ values, slot, start }: Slots, seasons: Pick<BandModel, 'slot' | 'day' | 'week'>): HourLevels {
  const levels = hourLevels(values, start, slot, seasons);
  const { before } = levels;
  const early = before[Math.min(before.length - 1, levelHours)] as number;
  for (let h = 0; h < Math.min(before.length, levelHours / 2); h++) before[h] = early;
  return levels;
}
