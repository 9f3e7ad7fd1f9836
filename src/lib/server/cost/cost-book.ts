import {
  addMicros,
  costReport,
  dateOf,
  dimensionOf,
  micros,
  monthForecast,
  Rates,
  whatChanged,
  type BillEntry,
  type ChangeQuery,
  type ChangesFound,
  type CostQuery,
  type CostReport,
  type DatedRate,
  type DayNumber,
  type Micros,
  type MonthForecast,
  type ReportedItem
} from '$lib/core/cost';
import type { Database } from '../db/pool';
import { CostCache, type CachedDay } from './cost-cache';
import { wholeDay } from './cost-days';

/** Own currency and rates, as they go from one thread to another. */
export interface RatesGiven {
  readonly currency: string;
  readonly rates: readonly DatedRate[];
}

/** A report, with what its groups cost on other days. */
export interface ComparedReport {
  readonly report: CostReport;
  readonly earlier: {
    readonly total: Micros;
    /** One amount a day, of all groups. */
    readonly days: Float64Array;
    /** Of the groups that the report lists. */
    readonly groups: ReadonlyMap<string, Micros>;
  };
}

/** A change of a cost with what it is of. */
export interface NamedChange {
  readonly item: ReportedItem;
  readonly day: DayNumber;
  readonly before: number;
  readonly after: number;
}

/** A sum of a day: of a resource, or of a service in a region. */
export interface DaySum {
  readonly day: DayNumber;
  readonly resource: string | null;
  readonly service: string;
  readonly region: string;
  readonly amount: Micros;
}

/** What is to be forecast: a period, of the days from `past` to `now`. */
export interface ForecastQuery extends Pick<CostQuery, 'from' | 'to' | 'basis' | 'filters'> {
  readonly past: DayNumber;
  /** The first day that is not billed. */
  readonly now: DayNumber;
}

/** Keys of labels that are listed at most. */
const mostLabels = 200;

/**
 * What accounts cost, by what is stored of their bills.
 *
 * @example const [report] = await new CostBook(db).reports([query], { currency: 'EUR', rates: [] })
 */
export class CostBook {
  readonly #db: Database;
  readonly #cache: CostCache;

  constructor(db: Database) {
    this.#db = db;
    this.#cache = new CostCache(db);
  }

  /** Reports on some days each; of the same items for all of them. */
  async reports(queries: readonly CostQuery[], given: RatesGiven): Promise<CostReport[]> {
    const from = Math.min(...queries.map((one) => one.from)) as DayNumber;
    const to = Math.max(...queries.map((one) => one.to)) as DayNumber;
    const days = await this.#cache.days(from, to, (day) => queries.some((one) => day >= one.from && day < one.to));
    const rates = new Rates(given.currency, given.rates);
    return queries.map((query) => costReport(query, this.#cache.items, days, rates));
  }

  /** A report, and what its groups cost on other days. */
  async compared(
    query: CostQuery,
    earlier: Pick<CostQuery, 'from' | 'to'>,
    given: RatesGiven
  ): Promise<ComparedReport> {
    const [report, before] = await this.reports([query, { ...query, ...earlier, most: Infinity }], given);
    if (report === undefined || before === undefined) throw new Error('compared: two reports were expected');
    const listed = new Set(report.groups.map(({ value }) => value));
    return {
      report,
      earlier: {
        ...{ total: before.total, days: before.days },
        groups: new Map(before.groups.flatMap(({ value, total }) => (listed.has(value) ? [[value, total]] : [])))
      }
    };
  }

  /** What changed its cost. */
  async changes(
    query: ChangeQuery,
    given: RatesGiven
  ): Promise<Omit<ChangesFound, 'changes'> & { readonly changes: readonly NamedChange[] }> {
    const days = await this.#cache.days(query.from, query.to);
    const { items } = this.#cache;
    const { changes, ...counts } = whatChanged(query, items, days, new Rates(given.currency, given.rates));
    return {
      ...counts,
      changes: changes.flatMap(({ item: number, day, before, after }) => {
        const item = items[number];
        return item ? [{ item, day, before, after }] : [];
      })
    };
  }

  /**
   * What a period is expected to cost in the end, of the days up to one that are billed. What is used goes on as it was; what is bought, refunded or taxed counts as it is.
   *
   * @returns null where there are too few days to go by
   */
  async forecast(
    { from, to, past, now, basis, filters }: ForecastQuery,
    given: RatesGiven
  ): Promise<MonthForecast | null> {
    const [used, all] = await this.reports(
      [
        {
          ...{ from: past, to: now, basis, by: 'account', most: 0 },
          filters: [...filters, { by: 'category', values: ['usage'] }]
        },
        { from, to: now, basis, filters, by: 'category', most: 10 }
      ],
      given
    );
    if (used === undefined || all === undefined) return null;
    const once = all.groups.reduce((sum, { value, total }) => sum + (value === 'usage' ? 0 : total), 0) / 1_000_000;
    const days = used.days.map((amount) => amount / 1_000_000);
    const found = monthForecast(days, Math.max(0, now - Math.max(from, past)), Math.max(0, to - Math.max(now, from)));
    if (found === null) return null;
    const { soFar, expected, low, high } = found;
    return { soFar: soFar + once, expected: expected + once, low: low + once, high: high + once };
  }

  /** The keys of labels of what was billed within some days, and the names of some resources of it by what stands for them. */
  async facets(
    from: DayNumber,
    to: DayNumber,
    resources: readonly string[]
  ): Promise<{ labels: string[]; names: Record<string, string> }> {
    const days = await this.#cache.days(from, to);
    const { items } = this.#cache;
    const seen = new Uint8Array(items.length);
    const labels = new Set<string>();
    const wanted = new Set(resources);
    const names = new Map<string, string>();
    for (const { items: numbers } of days)
      for (const number of numbers) {
        const item = items[number];
        if (item === undefined || seen[number] === 1) continue;
        seen[number] = 1;
        for (const key of Object.keys(item.labels)) if (labels.size < mostLabels) labels.add(key);
        const value = wanted.size > 0 ? dimensionOf(item, 'resource') : '';
        if (wanted.has(value)) names.set(value, item.resourceName);
      }
    return { labels: [...labels].sort(), names: Object.fromEntries(names) };
  }

  /** What resources, and services in regions, cost on some days of an account, in one's own currency; what has no rate is left out. */
  async sums(accountId: number, days: readonly DayNumber[], given: RatesGiven): Promise<DaySum[]> {
    if (days.length === 0) return [];
    const rates = new Rates(given.currency, given.rates);
    const wanted = new Set(days);
    const found = await this.#cache.days(
      Math.min(...days) as DayNumber,
      (Math.max(...days) + 1) as DayNumber,
      (day) => wanted.has(day),
      accountId
    );
    return found.flatMap((day) => sumsOf(day, this.#cache.items, rates));
  }

  /** Entries of a day of an account as they leave. An item that a correction took off the bill is none. */
  async entries(accountId: number, day: DayNumber): Promise<BillEntry[]> {
    const whole = await wholeDay(this.#db, accountId, day);
    if (whole === null) return [];
    await this.#cache.refresh();
    return [...whole.items].flatMap((number, index) => {
      const item = this.#cache.items[number];
      if (item === undefined) return [];
      const { account: _account, ...rest } = item;
      const quantity = whole.quantities[index] as number;
      if (whole.billed[index] === 0 && whole.amortised[index] === 0 && Number.isNaN(quantity)) return [];
      return [
        {
          ...{ item: rest, day, quantity: Number.isNaN(quantity) ? null : quantity },
          billed: micros(whole.billed[index] as number),
          amortised: micros(whole.amortised[index] as number)
        }
      ];
    });
  }
}

function sumsOf(
  { day, items: numbers, billed }: CachedDay,
  items: readonly (ReportedItem | undefined)[],
  rates: Rates
): DaySum[] {
  const sums = new Map<string, { -readonly [K in keyof DaySum]: DaySum[K] }>();
  const date = dateOf(day);
  for (let i = 0; i < numbers.length; i++) {
    const item = items[numbers[i] as number];
    const amount = item && rates.inOwn(micros(billed[i] as number), item.currency, date);
    if (item === undefined || amount === null || amount === undefined) continue;
    const { resource, service, region } = item;
    const key = JSON.stringify([resource, service, region]);
    const known = sums.get(key) ?? { day, resource, service, region, amount: micros(0) };
    known.amount = addMicros(known.amount, amount);
    sums.set(key, known);
  }
  return [...sums.values()];
}
