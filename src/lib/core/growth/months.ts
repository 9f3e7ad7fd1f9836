import { dateAt, type Instant } from '../time';

/** What a month was like: the mean of its days. */
export interface MonthOf {
  /** Such as `2026-10`. */
  readonly month: string;
  readonly mean: number;
  /** Days that have a value. */
  readonly days: number;
  /** The mean of the same month a year before; null where that is not known. */
  readonly yearBefore: number | null;
}

/**
 * Days by calendar months, each beside the same month of the year before; months without a value are left out.
 *
 * @param starts of the days
 * @param values NaN for gaps
 * @example monthsOf(starts, values, 'Europe/Rome').at(-1) // { month: '2026-10', mean: 61.2, days: 31, yearBefore: 54.8 }
 */
export function monthsOf(starts: readonly Instant[], values: ArrayLike<number>, zone: string): MonthOf[] {
  const sums = new Map<string, { sum: number; days: number }>();
  starts.forEach((start, index) => {
    const value = values[index] ?? NaN;
    if (Number.isNaN(value)) return;
    const month = dateAt(start, zone).slice(0, 7);
    const known = sums.get(month) ?? { sum: 0, days: 0 };
    sums.set(month, { sum: known.sum + value, days: known.days + 1 });
  });
  const meanOf = (month: string): number | null => {
    const one = sums.get(month);
    return one === undefined ? null : one.sum / one.days;
  };
  return [...sums].map(([month, { sum, days }]) => ({
    ...{ month, mean: sum / days, days },
    yearBefore: meanOf(`${Number(month.slice(0, 4)) - 1}${month.slice(4)}`)
  }));
}
