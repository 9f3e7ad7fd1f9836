import { levelChanges } from './level-changes';

/** What a month is expected to cost in the end. */
export interface MonthForecast {
  /** What the days that are over cost, and what all days are expected to. */
  readonly soFar: number;
  readonly expected: number;
  /** Between these lies the end of four months in five. */
  readonly low: number;
  readonly high: number;
}

const week = 7;
/** So many days of one level have weekdays of their own. */
const leastForWeekdays = 3 * week;
/** The 0.9 quantile of Student's t distribution by degrees of freedom, from 1; beyond, that of the normal distribution. */
const studentNinety = [
  3.078, 1.886, 1.638, 1.533, 1.476, 1.44, 1.415, 1.397, 1.383, 1.372, 1.363, 1.356, 1.35, 1.345, 1.341
];
const normalNinety = 1.2816;

/**
 * The cost of a month in the end: what is over, and for every day that is left the mean of its weekday since the level changed last, with an interval in which four months
 * in five end. Errors of days are independent, that of the mean is common to all days that are left.
 *
 * @param past one amount a day, oldest first, those of this month last; gaps are NaN and count as no day
 * @param monthDays how many of the last of these are of this month
 * @param left days of the month that are not over
 * @returns null where there are fewer than three days to go by
 * @example monthForecast([10, 10, 10, 10], 4, 26) // { soFar: 40, expected: 300, low: 300, high: 300 }
 */
export function monthForecast(past: ArrayLike<number>, monthDays: number, left: number): MonthForecast | null {
  const changes = levelChanges(past);
  const from = changes.at(-1)?.at ?? 0;
  const days = Array.from({ length: past.length - from }, (_, index) => from + index).filter((day) =>
    Number.isFinite(past[day])
  );
  if (days.length < 3) return null;
  const of = (day: number): number => past[day] as number;
  const hasWeekdays = days.length >= leastForWeekdays;
  const groups = hasWeekdays
    ? Array.from({ length: week }, (_, weekday) => days.filter((day) => day % week === weekday))
    : [days];
  const means = groups.map((group) => meanOf(group.map(of)));
  const meanAt = (day: number): number => means[hasWeekdays ? day % week : 0] as number;
  const freedom = days.length - groups.length;
  const variance = days.reduce((sum, day) => sum + (of(day) - meanAt(day)) ** 2, 0) / Math.max(1, freedom);
  let soFar = 0;
  for (let day = Math.max(0, past.length - monthDays); day < past.length; day++)
    if (Number.isFinite(past[day])) soFar += of(day);
  const ahead = Array.from({ length: left }, (_, index) => past.length + index);
  const expected = ahead.reduce((sum, day) => sum + meanAt(day), soFar);
  // Of each mean, how many days go by it: its error is theirs together.
  const ofMeans = groups.reduce((sum, group, index) => {
    const by = ahead.filter((day) => (hasWeekdays ? day % week : 0) === index).length;
    return sum + by ** 2 / group.length;
  }, 0);
  const width = (studentNinety[freedom - 1] ?? normalNinety) * Math.sqrt(variance * (left + ofMeans));
  return { soFar, expected, low: expected - width, high: expected + width };
}

const meanOf = (values: readonly number[]): number => values.reduce((sum, one) => sum + one, 0) / values.length;
