import { LRUCache } from 'lru-cache';
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
  type ChangesFound,
  type CostBasis,
  type CostItem,
  type CostQuestion,
  type CostReport,
  type DatedRate,
  type DayNumber,
  type DaySheet,
  type Micros,
  type MonthForecast,
  type ReportedDay,
  type ReportedItem
} from '$lib/core/cost';
import { Refusal } from '$lib/core/problem/problem';
import type { Instant } from '$lib/core/time';
import type { Database } from '../db/pool';
import { allAccounts } from '../inventory/accounts';
import type { RejectedRows } from './bill-reads';
import { daysWithin, saveDay, sheetsOf, wholeDay, type StoredDay } from './cost-days';
import { itemsSince, keyOf, numbersOf, saveItems } from './cost-items';
import { readFocusFile } from './focus-file';

/** Own currency and rates, as they go from one thread to another. */
export interface RatesGiven {
  readonly currency: string;
  readonly rates: readonly DatedRate[];
}

/** Days of an account that were stored, and those of them that are other than before. */
export interface StoredBill {
  readonly changed: readonly DayNumber[];
  readonly entries: number;
  readonly rejected: RejectedRows;
}

/** What a file is about, before anything of it is stored. */
export interface FocusPreview {
  readonly rows: number;
  readonly rejected: RejectedRows;
  /** By the name of each account in the file. */
  readonly accounts: readonly {
    readonly name: string;
    readonly provider: string;
    readonly from: DayNumber;
    readonly to: DayNumber;
    readonly entries: number;
    readonly totals: Readonly<Record<string, Micros>>;
  }[];
}

/** A change of a cost with what it is of. */
export interface NamedChange {
  readonly item: ReportedItem;
  readonly accountId: number;
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
export interface ForecastQuestion extends Pick<CostQuestion, 'from' | 'to' | 'basis' | 'filters'> {
  readonly past: DayNumber;
  /** The first day that is not billed. */
  readonly now: DayNumber;
}

interface CachedDay extends ReportedDay {
  readonly accountId: number;
  readonly revision: number;
}

/** Bytes of days that are cached at most, and items that are read at once. */
const [mostCached, itemsAtOnce] = [320 * 1024 ** 2, 50_000];

/**
 * What accounts cost: stored day by day as columns, of which those that are looked at stay in memory.
 *
 * @example const book = new CostBook(db); await book.put(accountId, { from, to }, entries, now)
 */
export class CostBook {
  readonly #db: Database;
  readonly #days = new LRUCache<string, CachedDay>({ maxSize: mostCached, sizeCalculation: sizeOf });
  readonly #items: (ReportedItem | undefined)[] = [];
  readonly #accountOf: number[] = [];
  #revision = 0;
  /** Numbers of the items of the account that was written last, and what they were written as. */
  #writing: { accountId: number; numbers: Map<string, number>; written: Map<string, string> } | null = null;

  constructor(db: Database) {
    this.#db = db;
  }

  /** Stores what some days cost in place of whatever is stored of them; a day of which nothing is said cost nothing. */
  async put(
    accountId: number,
    { from, to }: { readonly from: DayNumber; readonly to: DayNumber },
    entries: readonly BillEntry[],
    at: Instant
  ): Promise<StoredBill> {
    const inside = entries.filter(({ day }) => day >= from && day < to);
    const numbers = await this.#numbersFor(accountId, inside);
    const byDay = new Map<DayNumber, Map<number, Sum>>();
    for (const entry of inside) {
      const number = numbers.get(entry.item) as number;
      const sums = byDay.get(entry.day) ?? new Map<number, Sum>();
      byDay.set(entry.day, sums.set(number, added(sums.get(number), entry)));
    }
    const changed: DayNumber[] = [];
    await this.#db.transaction(async (within) => {
      for (let day = from; day < to; day = (day + 1) as DayNumber) {
        const sums = byDay.get(day) ?? new Map<number, Sum>();
        // What is on the bill no more costs nothing, so that whatever was told of it is corrected.
        const before = await wholeDay(within, accountId, day);
        for (const number of before?.items ?? []) if (!sums.has(number)) sums.set(number, nothing);
        if (await saveDay(within, accountId, day, columnsOf(sums), at).catch(asRefusal)) changed.push(day);
      }
    });
    return { changed, entries: inside.length, rejected: { count: 0, first: [] } };
  }

  /** {@link put} of a FOCUS file. */
  async putFile(
    accountId: number,
    span: { readonly from: DayNumber; readonly to: DayNumber },
    file: Uint8Array,
    isGzip: boolean,
    at: Instant
  ): Promise<StoredBill> {
    const entries: BillEntry[] = [];
    const { rejected } = await readFocusFile(file, isGzip, (row) => entries.push(...row.entries));
    return { ...(await this.put(accountId, span, entries, at)), rejected };
  }

  /** What a FOCUS file is about. */
  async preview(file: Uint8Array, isGzip: boolean): Promise<FocusPreview> {
    const accounts = new Map<string, Previewed>();
    const { rows, rejected } = await readFocusFile(file, isGzip, ({ account, entries }) => {
      const known: Previewed = accounts.get(account.name) ?? {
        ...{ ...account, from: Infinity, to: 0, entries: 0 },
        totals: new Map<string, Micros>()
      };
      for (const { day, billed, item } of entries) {
        known.from = Math.min(known.from, day);
        known.to = Math.max(known.to, day + 1);
        known.entries++;
        known.totals.set(item.currency, addMicros(known.totals.get(item.currency) ?? micros(0), billed));
      }
      accounts.set(account.name, known);
    });
    return {
      ...{ rows, rejected },
      accounts: [...accounts.values()].map(({ name, provider, from, to, entries, totals }) => ({
        ...{ name, provider, entries, from: from as DayNumber, to: to as DayNumber },
        totals: Object.fromEntries(totals)
      }))
    };
  }

  /**
   * Stores the accounts of a FOCUS file that are wanted: of each, all days from its first to its last in the file.
   *
   * @param wanted accounts by their names in the file
   */
  async importFile(
    file: Uint8Array,
    isGzip: boolean,
    wanted: Readonly<Record<string, number>>,
    at: Instant
  ): Promise<{ readonly stored: Readonly<Record<string, StoredBill>>; readonly rejected: RejectedRows }> {
    const byName = new Map<string, BillEntry[]>();
    const { rejected } = await readFocusFile(file, isGzip, ({ account, entries }) => {
      if (!Object.hasOwn(wanted, account.name)) return;
      const own = byName.get(account.name) ?? [];
      own.push(...entries);
      byName.set(account.name, own);
    });
    const stored: Record<string, StoredBill> = {};
    for (const [name, entries] of byName) {
      const days = entries.reduce(
        ({ from, to }, { day }) => ({ from: Math.min(from, day), to: Math.max(to, day + 1) }),
        { from: Infinity, to: -Infinity }
      );
      stored[name] = await this.put(wanted[name] as number, days as { from: DayNumber; to: DayNumber }, entries, at);
    }
    return { stored, rejected };
  }

  /** Reports on some days each; of the same items for all of them. */
  async reports(questions: readonly CostQuestion[], given: RatesGiven): Promise<CostReport[]> {
    const from = Math.min(...questions.map((one) => one.from)) as DayNumber;
    const to = Math.max(...questions.map((one) => one.to)) as DayNumber;
    const sheets = await this.#sheets(from, to, (day) => questions.some((one) => day >= one.from && day < one.to));
    const rates = new Rates(given.currency, given.rates);
    return questions.map((question) => costReport(question, this.#items, sheets, rates));
  }

  /** What changed its cost. */
  async changes(
    question: { from: DayNumber; to: DayNumber; since: DayNumber; basis: CostBasis; least: number; most: number },
    given: RatesGiven
  ): Promise<Omit<ChangesFound, 'changes'> & { changes: NamedChange[] }> {
    const sheets = await this.#sheets(question.from, question.to);
    const rates = new Rates(given.currency, given.rates);
    const named = sheets.map((sheet) => ({ ...sheet, account: this.#names.get(sheet.accountId) ?? '' }));
    const { changes, ...counts } = whatChanged(question, this.#items, named, rates);
    return {
      ...counts,
      changes: changes.flatMap(({ item: number, day, before, after }) => {
        const item = this.#items[number];
        return item ? [{ item, accountId: this.#accountOf[number] as number, day, before, after }] : [];
      })
    };
  }

  /**
   * What a period is expected to cost in the end, of the days up to one that are billed. What is used goes on as it was; what is bought, refunded or taxed counts as it is.
   *
   * @returns null where there are too few days to go by
   */
  async forecast(
    { from, to, past, now, basis, filters }: ForecastQuestion,
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
    const seen = new Uint8Array(this.#items.length + 1);
    const labels = new Set<string>();
    const wanted = new Set(resources);
    const names: Record<string, string> = {};
    for (const { items } of await this.#sheets(from, to))
      for (const number of items) {
        const item = this.#items[number];
        if (item === undefined || seen[number] === 1) continue;
        seen[number] = 1;
        for (const key of Object.keys(item.labels)) if (labels.size < 200) labels.add(key);
        const value = wanted.size > 0 ? dimensionOf(item, 'resource') : '';
        if (wanted.has(value)) names[value] = item.resourceName;
      }
    return { labels: [...labels].sort(), names };
  }

  /** What resources, and services in regions, cost on some days of an account, in one's own currency; what has no rate is left out. */
  async sums(accountId: number, days: readonly DayNumber[], given: RatesGiven): Promise<DaySum[]> {
    if (days.length === 0) return [];
    const rates = new Rates(given.currency, given.rates);
    const wanted = new Set(days);
    const sheets = await this.#sheets(
      Math.min(...days) as DayNumber,
      (Math.max(...days) + 1) as DayNumber,
      (day) => wanted.has(day),
      accountId
    );
    return sheets.flatMap((sheet) => sumsOf(sheet, this.#items, rates));
  }

  /** Entries of a day of an account as they leave. */
  async entries(accountId: number, day: DayNumber): Promise<BillEntry[]> {
    const whole = await wholeDay(this.#db, accountId, day);
    if (whole === null) return [];
    await this.#readItems();
    return [...whole.items].flatMap((number, index) => {
      const item = this.#items[number];
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

  close(): Promise<void> {
    return this.#db.close();
  }

  /** The sheets of some days; what is not cached is read. */
  async #sheets(
    from: DayNumber,
    to: DayNumber,
    isWanted: (day: DayNumber) => boolean = () => true,
    only: number | null = null
  ): Promise<CachedDay[]> {
    const days = (await daysWithin(this.#db, from, to)).filter(
      ({ day, accountId }) => isWanted(day) && (only === null || accountId === only)
    );
    const missing = new Map<number, StoredDay[]>();
    const found: CachedDay[] = [];
    for (const one of days) {
      const cached = this.#days.get(`${one.accountId} ${one.day}`);
      if (cached?.revision === one.revision) found.push(cached);
      else missing.set(one.accountId, [...(missing.get(one.accountId) ?? []), one]);
    }
    for (const [accountId, some] of missing) {
      let items: Int32Array = new Int32Array(0);
      for (let first = 0; first < some.length; first += daysAtOnce) {
        const wanted = some.slice(first, first + daysAtOnce).map(({ day }) => day);
        for (const sheet of await sheetsOf(this.#db, accountId, wanted)) {
          // Most days have the same items as the one before: one column for all of them.
          if (!isSame(items, sheet.items)) ({ items } = sheet);
          const cached = { ...sheet, items, accountId };
          this.#days.set(`${accountId} ${sheet.day}`, cached);
          found.push(cached);
        }
      }
    }
    await this.#readItems();
    return found;
  }

  #names = new Map<number, string>();

  /** Reads items that changed since the last time; names of accounts as they are now. */
  async #readItems(): Promise<void> {
    const names = new Map((await allAccounts(this.#db)).map(({ id, name }) => [id, name]));
    const renamed = [...names].some(([id, name]) => (this.#names.get(id) ?? name) !== name);
    this.#names = names;
    if (renamed) this.#revision = 0;
    for (;;) {
      const some = await itemsSince(this.#db, this.#revision, itemsAtOnce);
      for (const { id, accountId, item, revision } of some) {
        this.#items[id] = { ...item, account: names.get(accountId) ?? '' };
        this.#accountOf[id] = accountId;
        this.#revision = revision;
      }
      if (some.length < itemsAtOnce) return;
    }
  }

  /** The number of each entry's item; those that are new, or have other names or labels now, are saved. */
  async #numbersFor(accountId: number, entries: readonly BillEntry[]): Promise<Map<CostItem, number>> {
    if (this.#writing?.accountId !== accountId)
      this.#writing = { accountId, numbers: await numbersOf(this.#db, accountId), written: new Map() };
    const { numbers, written } = this.#writing;
    const keys = new Map<CostItem, string>();
    const unsaved = new Map<string, CostItem>();
    for (const { item } of entries) {
      if (keys.has(item)) continue;
      const key = keyOf(item);
      keys.set(item, key);
      const words = JSON.stringify([item.resourceName, item.resourceType, item.labels]);
      if (!numbers.has(key) || written.get(key) !== words) unsaved.set(key, item);
      written.set(key, words);
    }
    try {
      for (const [key, number] of await saveItems(this.#db, accountId, unsaved)) numbers.set(key, number);
    } catch (error) {
      this.#writing = null;
      throw error;
    }
    return new Map([...keys].map(([item, key]) => [item, numbers.get(key) as number]));
  }
}

interface Previewed {
  readonly name: string;
  readonly provider: string;
  from: number;
  to: number;
  entries: number;
  readonly totals: Map<string, Micros>;
}

interface Sum {
  readonly billed: Micros;
  readonly amortised: Micros;
  readonly quantity: number | null;
}

/** Amounts that add up to more than can be stored are a fault of the bill. */
function asRefusal(error: unknown): never {
  if (!(error instanceof RangeError)) throw error;
  throw new Refusal(
    'unreadable',
    'The amounts of one day add up to more than four billion.',
    'Check the amounts of the bill.',
    { cause: error }
  );
}

const nothing: Sum = { billed: micros(0), amortised: micros(0), quantity: null };

/** Two entries of one item and day are one. */
const added = (known: Sum | undefined, { billed, amortised, quantity }: BillEntry): Sum =>
  known === undefined
    ? { billed, amortised, quantity }
    : {
        billed: addMicros(known.billed, billed),
        amortised: addMicros(known.amortised, amortised),
        quantity: quantity === null ? known.quantity : (known.quantity ?? 0) + quantity
      };

function columnsOf(sums: ReadonlyMap<number, Sum>): DaySheet & { quantities: Float64Array } {
  const rows = [...sums].sort(([a], [b]) => a - b);
  return {
    items: Int32Array.from(rows, ([number]) => number),
    billed: Float64Array.from(rows, ([, { billed }]) => billed),
    amortised: Float64Array.from(rows, ([, { amortised }]) => amortised),
    quantities: Float64Array.from(rows, ([, { quantity }]) => quantity ?? NaN)
  };
}

/** Days whose bytes are read at once. */
const daysAtOnce = 8;

const sizeOf = ({ billed, amortised, items }: CachedDay): number =>
  1000 + billed.byteLength + (amortised === billed ? 0 : amortised.byteLength) + Math.ceil(items.byteLength / 8);

function isSame(one: Int32Array, other: Int32Array): boolean {
  if (one.length !== other.length) return false;
  for (let i = 0; i < one.length; i++) if (one[i] !== other[i]) return false;
  return true;
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
