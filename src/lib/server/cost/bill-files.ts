import { addMicros, dateOf, dayAt, micros, type BillEntry, type DayNumber, type Micros } from '$lib/core/cost';
import type { ReadRow } from '$lib/core/cost/focus';
import { Refusal } from '$lib/core/problem/problem';
import type { Instant } from '$lib/core/time';
import type { RejectedRows } from './bill-reads';
import type { BillWriter, DaySpan, StoredBill } from './bill-writer';
import { readFocusFile } from './focus-file';

/** What a file says of one account. */
export interface PreviewedAccount extends DaySpan {
  readonly name: string;
  readonly provider: string;
  readonly entries: number;
  readonly totals: Readonly<Record<string, Micros>>;
}

/** What a file is about, before anything of it is stored. */
export interface FocusPreview {
  readonly rows: number;
  readonly rejected: RejectedRows;
  readonly accounts: readonly PreviewedAccount[];
}

/** An account of a file that was stored. */
export interface ImportedAccount extends StoredBill {
  readonly name: string;
}

/** Accounts of one file at most, and how far back and ahead of now its days may lie. */
const [mostAccounts, daysBack, daysAhead] = [1000, 3660, 366];

/** Bills that come as FOCUS files. */
export class BillFiles {
  readonly #writer: BillWriter;

  constructor(writer: BillWriter) {
    this.#writer = writer;
  }

  /** Stores a file of an account in place of whatever is stored of some days. */
  async put(
    accountId: number,
    span: DaySpan,
    file: Uint8Array,
    isGzip: boolean,
    at: Instant
  ): Promise<StoredBill & { readonly rejected: RejectedRows }> {
    const entries: BillEntry[] = [];
    const { rejected } = await readFocusFile(file, isGzip, (row) => {
      entries.push(...row.entries);
      return null;
    });
    return { ...(await this.#writer.put(accountId, span, entries, at)), rejected };
  }

  /** What a file is about. @param at now: days that are far from it are a mistake */
  async preview(file: Uint8Array, isGzip: boolean, at: Instant): Promise<FocusPreview> {
    const accounts = new Map<string, ReturnType<typeof begun>>();
    const { rows, rejected } = await readFocusFile(file, isGzip, ({ account, entries }) => {
      const why = farFrom(at, entries);
      if (why !== null) return why;
      const known = accounts.get(account.name) ?? begun(account);
      for (const { day, billed, item } of entries) {
        known.from = Math.min(known.from, day);
        known.to = Math.max(known.to, day + 1);
        known.entries++;
        known.totals.set(item.currency, addMicros(known.totals.get(item.currency) ?? micros(0), billed));
      }
      accounts.set(account.name, known);
      if (accounts.size > mostAccounts)
        throw new Refusal(
          'too-large',
          `The file has more than ${mostAccounts} accounts.`,
          'Export fewer accounts, one file each.'
        );
      return null;
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
   * Stores the accounts of a file that are wanted: of each, all days from its first to its last in the file.
   *
   * @param wanted ids of accounts by their names in the file
   */
  async import(
    file: Uint8Array,
    isGzip: boolean,
    wanted: ReadonlyMap<string, number>,
    at: Instant
  ): Promise<{ readonly accounts: readonly ImportedAccount[]; readonly rejected: RejectedRows }> {
    const byName = new Map<string, BillEntry[]>();
    const { rejected } = await readFocusFile(file, isGzip, ({ account, entries }) => {
      const why = farFrom(at, entries);
      if (why !== null || !wanted.has(account.name)) return why;
      const own = byName.get(account.name) ?? [];
      own.push(...entries);
      byName.set(account.name, own);
      return null;
    });
    const accounts: ImportedAccount[] = [];
    for (const [name, entries] of byName)
      accounts.push({
        name,
        ...(await this.#writer.put(wanted.get(name) as number, spanOf(entries), entries, at))
      });
    return { accounts, rejected };
  }
}

const begun = ({ name, provider }: ReadRow['account']) => ({
  ...{ name, provider, from: Infinity, to: 0, entries: 0 },
  totals: new Map<string, Micros>()
});

/** Why a row is no bill of these years; null where it is. One wrong year would fill centuries with days that cost nothing. */
function farFrom(at: Instant, entries: readonly BillEntry[]): string | null {
  const today = dayAt(at);
  const far = entries.find(({ day }) => day < today - daysBack || day > today + daysAhead);
  return far === undefined ? null : `${dateOf(far.day)} is more than ten years ago, or more than a year ahead.`;
}

function spanOf(entries: readonly BillEntry[]): DaySpan {
  let [from, to] = [Infinity, -Infinity];
  for (const { day } of entries) [from, to] = [Math.min(from, day), Math.max(to, day + 1)];
  return { from: from as DayNumber, to: to as DayNumber };
}
