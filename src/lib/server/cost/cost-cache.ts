import { LRUCache } from 'lru-cache';
import type { DayNumber, ReportedDay, ReportedItem } from '$lib/core/cost';
import type { Database } from '../db/pool';
import { namesOfAccounts } from '../inventory/accounts';
import { daysWithin, sheetsOf, type StoredDay } from './cost-days';
import { itemsSince } from './cost-items';

/** A day of an account, as it is looked at. */
export interface CachedDay extends ReportedDay {
  readonly accountId: number;
  readonly account: string;
  readonly revision: number;
}

/** Bytes of days that stay in memory at most, days whose bytes are read at once, and items. */
const [mostBytes, daysAtOnce, itemsAtOnce] = [320 * 1024 ** 2, 8, 50_000];

/** Days and items that were looked at stay in memory; what changed in the database is read again. */
export class CostCache {
  readonly #db: Database;
  readonly #days = new LRUCache<string, Omit<CachedDay, 'account'>>({ maxSize: mostBytes, sizeCalculation: sizeOf });
  readonly #items: (ReportedItem | undefined)[] = [];
  #names = new Map<number, string>();
  /** Items up to this one are read. */
  #revision = 0;

  constructor(db: Database) {
    this.#db = db;
  }

  /** Items by their numbers, with holes, as of the last {@link days} or {@link refresh}. */
  get items(): readonly (ReportedItem | undefined)[] {
    return this.#items;
  }

  /**
   * The days of a span that are stored, of any account.
   *
   * @param isWanted narrows days
   * @param only an account; null for all
   */
  async days(
    from: DayNumber,
    to: DayNumber,
    isWanted: (day: DayNumber) => boolean = () => true,
    only: number | null = null
  ): Promise<CachedDay[]> {
    const days = (await daysWithin(this.#db, from, to)).filter(
      ({ day, accountId }) => isWanted(day) && (only === null || accountId === only)
    );
    const missing = new Map<number, StoredDay[]>();
    const found: Omit<CachedDay, 'account'>[] = [];
    for (const one of days) {
      const cached = this.#days.get(`${one.accountId} ${one.day}`);
      if (cached?.revision === one.revision) {
        found.push(cached);
        continue;
      }
      const others = missing.get(one.accountId);
      if (others) others.push(one);
      else missing.set(one.accountId, [one]);
    }
    for (const [accountId, some] of missing) found.push(...(await this.#read(accountId, some)));
    await this.refresh();
    return found.map((one) => ({ ...one, account: this.#names.get(one.accountId) ?? '' }));
  }

  /** Reads items that changed since the last time; accounts are called what they are called now. */
  async refresh(): Promise<void> {
    const names = await namesOfAccounts(this.#db);
    const isRenamed = [...names].some(([id, name]) => (this.#names.get(id) ?? name) !== name);
    this.#names = names;
    if (isRenamed) this.#revision = 0;
    for (;;) {
      const some = await itemsSince(this.#db, this.#revision, itemsAtOnce);
      for (const { id, accountId, item, revision } of some) {
        this.#items[id] = { ...item, account: names.get(accountId) ?? '' };
        this.#revision = revision;
      }
      if (some.length < itemsAtOnce) return;
    }
  }

  async #read(accountId: number, days: readonly StoredDay[]): Promise<Omit<CachedDay, 'account'>[]> {
    const read: Omit<CachedDay, 'account'>[] = [];
    let items: Int32Array = new Int32Array(0);
    for (let first = 0; first < days.length; first += daysAtOnce) {
      const some = days.slice(first, first + daysAtOnce).map(({ day }) => day);
      for (const sheet of await sheetsOf(this.#db, accountId, some)) {
        // Most days have the same items as the one before: one column for all of them.
        if (!isSame(items, sheet.items)) ({ items } = sheet);
        const cached = { ...sheet, items, accountId };
        this.#days.set(`${accountId} ${sheet.day}`, cached);
        read.push(cached);
      }
    }
    return read;
  }
}

/** The column of items is shared by most days. */
const sizeOf = ({ billed, amortised, items }: Omit<CachedDay, 'account'>): number =>
  1000 + billed.byteLength + (amortised === billed ? 0 : amortised.byteLength) + Math.ceil(items.byteLength / 8);

function isSame(one: Int32Array, other: Int32Array): boolean {
  if (one.length !== other.length) return false;
  for (let i = 0; i < one.length; i++) if (one[i] !== other[i]) return false;
  return true;
}
