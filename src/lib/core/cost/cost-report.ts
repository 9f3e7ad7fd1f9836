import type { CostBasis, CostItem, DayNumber } from './bill';
import type { DaySheet } from './day-sheet';
import { micros, type Micros } from './money';
import { dateOf } from './bill';
import type { Rates } from './rates';

/** By what costs are divided. `label:` is followed by the label's key. */
export type CostDimension = 'account' | 'region' | 'service' | 'usage' | 'category' | 'resource' | `label:${string}`;

/** Keeps what has one of some values of a dimension. */
export interface CostFilter {
  readonly by: CostDimension;
  readonly values: readonly string[];
}

/** An item as reports know it. */
export interface ReportedItem extends CostItem {
  readonly account: string;
}

/** A day of some account. */
export interface ReportedDay extends DaySheet {
  readonly day: DayNumber;
}

/** What is asked of some days. */
export interface CostQuery {
  /** The first day, and the one after the last. */
  readonly from: DayNumber;
  readonly to: DayNumber;
  readonly by: CostDimension;
  readonly basis: CostBasis;
  readonly filters: readonly CostFilter[];
  /** Groups of their own at most; what is less than these is put together. */
  readonly most: number;
}

/** What one part of all costs. */
export interface CostGroup {
  /** Empty for what has none, such as costs of no resource. */
  readonly value: string;
  readonly title: string;
  readonly total: Micros;
  /** One amount a day; NaN where there is no bill of any of it. */
  readonly days: Float64Array;
}

/** What some days cost, in one's own currency. */
export interface CostReport {
  readonly total: Micros;
  readonly days: Float64Array;
  /** Largest first. */
  readonly groups: readonly CostGroup[];
  /** Further groups that are not listed, and what they cost together. */
  readonly others: { readonly count: number; readonly total: Micros };
  /** What has no rate on its day and is not included, by currency, in that currency. */
  readonly unrated: Readonly<Record<string, Micros>>;
}

/** What stands for an item in a dimension. Resources of the same name in two accounts are two. */
export function dimensionOf(item: ReportedItem, by: CostDimension): string {
  if (by === 'resource') return item.resource === null ? '' : `${item.account}\n${item.resource}`;
  if (by.startsWith('label:')) return item.labels[by.slice('label:'.length)] ?? '';
  return item[by as Exclude<CostDimension, 'resource' | `label:${string}`>];
}

const none = 0xffffffff;

/**
 * What some days cost, added up exactly in each currency and then turned into one's own day by day.
 *
 * @param items by their numbers; holes are items that are not asked for
 * @param sheets days of any accounts, in any order; those outside the question are passed over
 * @returns groups largest first; O(entries)
 */
export function costReport(
  { from, to, by, basis, filters, most }: CostQuery,
  items: readonly (ReportedItem | undefined)[],
  sheets: readonly ReportedDay[],
  rates: Rates
): CostReport {
  const length = Math.max(0, to - from);
  const plan = grouped(items, by, filters);
  const cells = plan.groups.length * length;
  const sums = new Float64Array(cells);
  const isBilled = new Uint8Array(cells);
  for (const sheet of sheets) {
    const index = sheet.day - from;
    if (index < 0 || index >= length) continue;
    const amounts = sheet[basis];
    const { items: numbers } = sheet;
    for (let i = 0; i < numbers.length; i++) {
      const group = plan.groupOf[numbers[i] as number] ?? none;
      if (group === none) continue;
      const cell = group * length + index;
      sums[cell] = (sums[cell] as number) + (amounts[i] as number);
      isBilled[cell] = 1;
    }
  }
  return reported(plan, sums, isBilled, from, length, rates, most);
}

interface Grouping {
  /** One for each value and currency. */
  readonly groups: readonly { readonly value: string; readonly title: string; readonly currency: string }[];
  /** By the number of an item; {@link none} for what is filtered out. */
  readonly groupOf: Uint32Array;
}

function grouped(
  items: readonly (ReportedItem | undefined)[],
  by: CostDimension,
  filters: readonly CostFilter[]
): Grouping {
  const kept = filters.map((filter) => ({ by: filter.by, values: new Set(filter.values) }));
  const groups: { value: string; title: string; currency: string }[] = [];
  const numbers = new Map<string, Map<string, number>>();
  const groupOf = new Uint32Array(items.length).fill(none);
  for (let i = 0; i < items.length; i++) {
    const item = items[i];
    if (item === undefined || !kept.every((one) => one.values.has(dimensionOf(item, one.by)))) continue;
    const value = dimensionOf(item, by);
    let own = numbers.get(item.currency);
    if (own === undefined) numbers.set(item.currency, (own = new Map<string, number>()));
    let group = own.get(value);
    if (group === undefined) {
      own.set(value, (group = groups.length));
      groups.push({ value, title: by === 'resource' ? item.resourceName : value, currency: item.currency });
    }
    groupOf[i] = group;
  }
  return { groups, groupOf };
}

function reported(
  { groups }: Grouping,
  sums: Float64Array,
  isBilled: Uint8Array,
  from: DayNumber,
  length: number,
  rates: Rates,
  most: number
): CostReport {
  const unrated = new Map<string, number>();
  const rated = new Map<string, Float64Array>();
  const byValue = new Map<string, { title: string; total: number; days: Float64Array }>();
  const days = new Float64Array(length).fill(NaN);
  const add = (to: Float64Array, index: number, amount: number) => {
    const before = to[index] as number;
    to[index] = Number.isNaN(before) ? amount : before + amount;
  };
  for (let group = 0; group < groups.length; group++) {
    const { value, title, currency } = groups[group] as Grouping['groups'][number];
    let ofCurrency = rated.get(currency);
    if (ofCurrency === undefined) rated.set(currency, (ofCurrency = ratesOf(rates, currency, from, length)));
    let own = byValue.get(value);
    for (let index = 0; index < length; index++) {
      const cell = group * length + index;
      if (isBilled[cell] === 0) continue;
      const sum = sums[cell] as number;
      const rate = ofCurrency[index] as number;
      if (Number.isNaN(rate)) {
        unrated.set(currency, (unrated.get(currency) ?? 0) + sum);
        continue;
      }
      if (own === undefined) byValue.set(value, (own = { title, total: 0, days: new Float64Array(length).fill(NaN) }));
      const amount = rate === 1 ? sum : Math.sign(sum) * Math.round(Math.abs(sum) * rate);
      own.total += amount;
      add(own.days, index, amount);
      add(days, index, amount);
    }
  }
  const all = [...byValue].sort(([one, a], [other, b]) => b.total - a.total || (one < other ? -1 : 1));
  const total = all.reduce((sum, [, group]) => sum + group.total, 0);
  const rest = all.slice(most);
  return {
    total: micros(total),
    days,
    groups: all.slice(0, most).map(([value, group]) => ({ value, ...group, total: micros(group.total) })),
    others: { count: rest.length, total: micros(rest.reduce((sum, [, group]) => sum + group.total, 0)) },
    unrated: Object.fromEntries([...unrated].map(([currency, sum]) => [currency, micros(sum)]))
  };
}

/** The rate of each day; NaN where there is none. */
const ratesOf = (rates: Rates, currency: string, from: DayNumber, length: number): Float64Array =>
  Float64Array.from({ length }, (_, index) => rates.rateAt(currency, dateOf((from + index) as DayNumber)) ?? NaN);
