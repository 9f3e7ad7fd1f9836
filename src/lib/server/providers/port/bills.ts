import type { BillEntry, DayNumber } from '$lib/core/cost';

/** Days that a page of a bill has wholly: whatever is stored of them is replaced by it. */
interface PageDays {
  readonly from: DayNumber;
  /** The day after the last. */
  readonly to: DayNumber;
}

/** What some days cost: as entries, or as a file that is read off the event loop. */
export type BillPage = PageDays &
  (
    | { readonly kind: 'entries'; readonly entries: readonly BillEntry[] }
    | { readonly kind: 'focus'; readonly file: Uint8Array; readonly isGzip: boolean }
  );

/** How a provider bills. */
export interface Bills {
  /** So many of the newest days may still change, and are read again each time. */
  readonly settlesAfter: number;
  /** Bills of some days, page by page; those that are not there yet are left out. */
  read(from: DayNumber, to: DayNumber, signal: AbortSignal): AsyncIterable<BillPage>;
}
