import { dateOf, type CostBasis, type DayNumber } from './bill';
import type { ReportedDay, ReportedItem } from './cost-report';
import { levelChanges } from './level-changes';
import type { Rates } from './rates';

/** An item whose cost a day changed its level. */
export interface CostChange {
  /** The number of the item. */
  readonly item: number;
  /** The first day at the new level. */
  readonly day: DayNumber;
  /** What it cost a day before and from then on, in one's own currency. */
  readonly before: number;
  readonly after: number;
  readonly noise: number;
}

/** A day of an account, by its name. */
export interface DayOfAccount extends ReportedDay {
  readonly account: string;
}

/** What is looked at. */
export interface ChangeQuery {
  /** All days that are looked at: the more, the better is its noise known. */
  readonly from: DayNumber;
  readonly to: DayNumber;
  /** Changes before this day are not listed. */
  readonly since: DayNumber;
  readonly basis: CostBasis;
  /** The least difference a day that is worth being told, in one's own currency. */
  readonly least: number;
  /** Items that are looked at, at most: those whose cost moved most. */
  readonly most: number;
}

export interface ChangesFound {
  /** Those that make the largest difference a day first. */
  readonly changes: readonly CostChange[];
  /** How many items there are, and how many of them were looked at. */
  readonly items: number;
  readonly lookedAt: number;
}

const perUnit = 1_000_000;

/**
 * Items of usage whose cost changed its level by more than its own noise, see {@link levelChanges}. A day on which the bill of its account has nothing of an item cost nothing of it; a day
 * without a bill is a gap. Only the newest change of each item is listed.
 */
export function whatChanged(
  { from, to, since, basis, least, most }: ChangeQuery,
  items: readonly (ReportedItem | undefined)[],
  sheets: readonly DayOfAccount[],
  rates: Rates
): ChangesFound {
  const length = Math.max(0, to - from);
  const courses = coursesOf(items, sheets, rates, basis, from, length);
  const moved = [...courses].map(([item, course]) => ({ item, course, move: moveOf(course) }));
  const worth = moved.filter(({ move }) => move >= least).sort((a, b) => b.move - a.move || a.item - b.item);
  const changes = worth.slice(0, most).flatMap(({ item, course }) => {
    const newest = levelChanges(course).at(-1);
    if (newest === undefined || Math.abs(newest.after - newest.before) < least) return [];
    const day = (from + newest.at) as DayNumber;
    return day < since ? [] : [{ item, day, before: newest.before, after: newest.after, noise: newest.noise }];
  });
  changes.sort((a, b) => Math.abs(b.after - b.before) - Math.abs(a.after - a.before) || a.item - b.item);
  return { changes, items: courses.size, lookedAt: courses.size - Math.max(0, worth.length - most) };
}

/** What each item cost each day. */
function coursesOf(
  items: readonly (ReportedItem | undefined)[],
  sheets: readonly DayOfAccount[],
  rates: Rates,
  basis: CostBasis,
  from: DayNumber,
  length: number
): Map<number, Float64Array> {
  const billed = new Map<string, Float64Array>();
  const inside = sheets.filter(({ day }) => day >= from && day < from + length);
  for (const sheet of inside) {
    const { account } = sheet;
    const days = billed.get(account) ?? new Float64Array(length).fill(NaN);
    days[sheet.day - from] = 0;
    billed.set(account, days);
  }
  const courses = new Map<number, Float64Array>();
  for (const sheet of inside) {
    const index = sheet.day - from;
    const date = dateOf(sheet.day);
    const amounts = sheet[basis];
    for (let i = 0; i < sheet.items.length; i++) {
      const number = sheet.items[i] as number;
      const item = items[number];
      if (item?.category !== 'usage') continue;
      let course = courses.get(number);
      if (course === undefined)
        courses.set(number, (course = billed.get(item.account)?.slice() ?? new Float64Array(length).fill(NaN)));
      course[index] = ((amounts[i] as number) / perUnit) * (rates.rateAt(item.currency, date) ?? NaN);
    }
  }
  return courses;
}

/** By how much a cost moved at most: between the largest and the least of the medians of three days, so that a spike does not count. */
function moveOf(course: Float64Array): number {
  const days = course.filter(Number.isFinite);
  let [least, most] = [Infinity, -Infinity];
  for (let i = 2; i < days.length; i++) {
    const [a, b, c] = [days[i - 2] as number, days[i - 1] as number, days[i] as number];
    const middle = Math.max(Math.min(a, b), Math.min(Math.max(a, b), c));
    least = Math.min(least, middle);
    most = Math.max(most, middle);
  }
  return most < least ? 0 : most - least;
}
