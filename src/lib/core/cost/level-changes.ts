import { median } from './median';
import { optimalStarts } from './optimal-starts';

/** A day on which the level of a cost changed for good. */
export interface LevelChange {
  /** The first day at the new level, as an index of what was given. */
  readonly at: number;
  /** The level before and from then on, in the unit of what was given. */
  readonly before: number;
  readonly after: number;
  /** The usual deviation from one day to the next: the standard deviation without changes of level, weekdays and single spikes. */
  readonly noise: number;
}

/** What counts as a change. */
export interface LevelChangeOptions {
  /** How many times the noise a change has to be at least. */
  readonly atLeast?: number;
  /** Days of one level at least: less is a spike. */
  readonly shortest?: number;
}

const week = 7;
/** So many days have weekdays that can be told from noise. */
const leastForWeekdays = 4 * week;
/** From the median absolute deviation to the standard deviation of what is normally distributed. */
const ofNormal = 1.4826;

/**
 * The days on which the level of a daily amount changed: the partition into levels with the least squared deviation, where every further level costs a penalty (optimal
 * partitioning, Jackson et al., IEEE Signal Processing Letters 12, 2005), after weekdays and single spikes are taken out. Changes smaller than the noise allows are dropped, the
 * smallest first.
 *
 * Fewer than two levels' worth of days have no change; gaps (NaN) are passed over; all equal has none.
 *
 * @param values one amount a day, oldest first
 * @returns oldest first; O(n²) in the number of days
 * @example levelChanges([10, 10, 10, 10, 20, 20, 20, 20]) // [{ at: 4, before: 10, after: 20, noise: 0.05 }]
 */
export function levelChanges(
  values: ArrayLike<number>,
  { atLeast = 2.5, shortest = 3 }: LevelChangeOptions = {}
): LevelChange[] {
  const days = Array.from({ length: values.length }, (_, day) => day).filter((day) => Number.isFinite(values[day]));
  if (days.length < 2 * shortest) return [];
  const given = days.map((day) => values[day] as number);
  const level = withoutWeekdays(given, days);
  const noise = noiseOf(level, given);
  const smooth = withoutSpikes(level, noise);
  const starts = optimalStarts(smooth, noise, shortest);
  const exact = exactStarts(smooth, starts, shortest);
  return bySize(smooth, exact, atLeast * noise).map(({ at, before, after }) => ({
    ...{ at: days[at] as number, before, after, noise }
  }));
}

/** The deviation from one day to the next, never below what rounding makes of an amount. */
function noiseOf(level: readonly number[], given: readonly number[]): number {
  const steps = level.slice(1).map((value, index) => Math.abs(value - (level[index] as number)));
  const sizes = given.map(Math.abs);
  // What costs nothing on most days has its size from the others.
  const typical = median(sizes) || sizes.reduce((most, one) => Math.max(most, one), 0);
  return Math.max((ofNormal * median(steps)) / Math.SQRT2, 0.005 * typical) || 1;
}

/** Takes out what each day of the week is apart from the others, where that is more than chance. */
function withoutWeekdays(given: readonly number[], days: readonly number[]): number[] {
  if (given.length < leastForWeekdays) return [...given];
  const trend = given.map((_, index) => median(around(given, index, (week - 1) / 2)));
  const rest = given.map((value, index) => value - (trend[index] as number));
  const ofWeekday = Array.from({ length: week }, (_, weekday) =>
    median(rest.filter((_one, index) => (days[index] as number) % week === weekday))
  );
  const mean = ofWeekday.reduce((sum, one) => sum + one, 0) / week;
  const effects = ofWeekday.map((one) => one - mean);
  const spread = effects.reduce((sum, one) => sum + one ** 2, 0) / week;
  // The median of so many days deviates by chance as well; π/2 is how much more than their mean.
  const steps = median(rest.map(Math.abs)) * ofNormal;
  const byChance = (Math.PI / 2) * (steps ** 2 / (given.length / week));
  if (spread <= 2 * byChance) return [...given];
  return given.map((value, index) => value - (effects[(days[index] as number) % week] as number));
}

/** Puts a day that is far from those around it to their median. */
const withoutSpikes = (level: readonly number[], noise: number): number[] =>
  level.map((value, index) => {
    const usual = median(around(level, index, 2));
    return Math.abs(value - usual) > 4 * noise ? usual : value;
  });

/** Values up to so many places away, fewer at the ends. */
const around = (values: readonly number[], index: number, reach: number): number[] =>
  values.slice(Math.max(0, index - reach), index + reach + 1);

/**
 * Moves each start on to the first day that is nearer to its own level than to the one before: a level that has fewer days than one must have begins too early in the partition. What is left of it
 * has fewer days still, and is none until it has enough.
 */
function exactStarts(values: readonly number[], starts: readonly number[], shortest: number): number[] {
  const kept: number[] = [0];
  for (let index = 1; index < starts.length; index++) {
    const end = starts[index + 1] ?? values.length;
    const [before, own] = [median(values.slice(kept.at(-1), starts[index])), median(values.slice(starts[index], end))];
    let at = starts[index] as number;
    while (at < end && Math.abs((values[at] as number) - before) < Math.abs((values[at] as number) - own)) at++;
    if (end - at >= shortest) kept.push(at);
  }
  return kept;
}

/** Changes of at least a size: the smallest is dropped, and the levels beside it become one, until all are large enough. */
function bySize(
  values: readonly number[],
  starts: readonly number[],
  least: number
): { at: number; before: number; after: number }[] {
  let kept = [...starts];
  for (;;) {
    const levels = kept.map((from, index) => mean(values.slice(from, kept[index + 1] ?? values.length)));
    const changes = kept.slice(1).map((at, index) => ({
      ...{ at, before: levels[index] as number, after: levels[index + 1] as number }
    }));
    const sizes = changes.map(({ before, after }) => Math.abs(after - before));
    const smallest = Math.min(...sizes);
    if (changes.length === 0 || smallest >= least) return changes;
    const dropped = changes[sizes.indexOf(smallest)]?.at;
    kept = kept.filter((at) => at !== dropped);
  }
}

const mean = (values: readonly number[]): number => values.reduce((sum, one) => sum + one, 0) / values.length;
