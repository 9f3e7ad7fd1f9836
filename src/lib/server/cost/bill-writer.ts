import {
  addMicros,
  micros,
  type BillEntry,
  type CostItem,
  type DayNumber,
  type DaySheet,
  type Micros
} from '$lib/core/cost';
import type { Instant } from '$lib/core/time';
import type { Database } from '../db/pool';
import { saveDay, wholeDay } from './cost-days';
import { keyOf, numbersOf, saveItems } from './cost-items';

/** Days from the first to the one after the last. */
export interface DaySpan {
  readonly from: DayNumber;
  readonly to: DayNumber;
}

/** What storing a bill came to. */
export interface StoredBill {
  /** Days that are other than before. */
  readonly changed: readonly DayNumber[];
  readonly entries: number;
}

/** What items of an account are stored as. */
interface Known {
  readonly accountId: number;
  readonly numbers: Map<string, number>;
  /** Names and labels that each item was written with. */
  readonly written: Map<string, string>;
}

/** Writes what accounts are billed, day by day. */
export class BillWriter {
  readonly #db: Database;
  /** Of the account that was written last. */
  #known: Known | null = null;

  constructor(db: Database) {
    this.#db = db;
  }

  /**
   * Stores what some days cost in place of whatever is stored of them; a day of which nothing is said cost nothing.
   *
   * @throws AmountTooLarge where the amounts of a day add up to more than can be told exactly: nothing is stored then
   */
  async put(accountId: number, { from, to }: DaySpan, entries: readonly BillEntry[], at: Instant): Promise<StoredBill> {
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
        if (await saveDay(within, accountId, day, columnsOf(sums), at)) changed.push(day);
      }
    });
    return { changed, entries: inside.length };
  }

  /** The number of each entry's item; those that are new, or have other names or labels now, are saved. */
  async #numbersFor(accountId: number, entries: readonly BillEntry[]): Promise<Map<CostItem, number>> {
    if (this.#known?.accountId !== accountId)
      this.#known = { accountId, numbers: await numbersOf(this.#db, accountId), written: new Map() };
    const { numbers, written } = this.#known;
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
      // Another process may have been first with one that is new here.
      if ([...keys.values()].some((key) => !numbers.has(key)))
        for (const [key, number] of await numbersOf(this.#db, accountId)) numbers.set(key, number);
    } catch (error) {
      this.#known = null;
      throw error;
    }
    return new Map([...keys].map(([item, key]) => [item, numbers.get(key) as number]));
  }
}

interface Sum {
  readonly billed: Micros;
  readonly amortised: Micros;
  readonly quantity: number | null;
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
