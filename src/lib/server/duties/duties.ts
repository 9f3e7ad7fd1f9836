// duties
import type { Queryable } from '../db/pool';

/** A duty that this process has. */
export interface Held {
  readonly name: string;
  /** Rises each time another process takes it over; null where there can be no other process. */
  readonly fence: number | null;
}

/** A duty was taken over meanwhile: whoever had it may write nothing more. */
export class DutyLost extends Error {
  constructor({ name }: Held) {
    super(`Another process has taken over: ${name}.`);
    this.name = 'DutyLost';
  }
}

/**
 * What is to be done by one of several engines at a time, and what of it this process has now.
 *
 * A duty passes on when its engine ends, within seconds also when that ended without a word, and when another engine joins. Whoever writes something that must not be written by two confirms in the
 * same transaction that it still has the duty.
 */
export interface Duties {
  /** The id of this process; no other one has it. */
  readonly id: string;
  /** Ids of the engines that live; null where there is only this process. */
  engines(): readonly string[] | null;
  /** What it has of a duty now; null for nothing. A duty that nobody wanted before may take seconds to come. */
  held(name: string): Held | null;
  /** Does some work of a duty: until that ends, the duty is not handed to another engine that lives. @returns null without having done anything where it does not have the duty */
  during<Result>(name: string, work: (held: Held) => Promise<Result>): Promise<Result | null>;
}

/**
 * Makes sure, within a transaction, that a duty is still held: until the transaction ends, nobody can take it over.
 *
 * @param held null for work that is nobody's duty, such as what somebody does by hand
 * @throws DutyLost where it was taken over; the transaction is to be rolled back then
 * @example await db.transaction(async (within) => { await confirmDuty(within, held); … })
 */
export async function confirmDuty(within: Queryable, held: Held | null): Promise<void> {
  if (held === null || held.fence === null) return;
  const rows = await within.rows('select name from duties where name = $1 and fence = $2 for share', [
    held.name,
    held.fence
  ]);
  if (rows.length === 0) throw new DutyLost(held);
}

/** A duty of one account, in which all that is read there is. */
export const accountDuty = (accountId: number): string => `account ${accountId}`;

/** Has every duty: the database is this process's alone. */
export const soleDuties = (id: string): Duties => ({
  id,
  engines: () => null,
  held: (name) => ({ name, fence: null }),
  during: (name, work) => work({ name, fence: null })
});

/** Has none: it serves only. */
export const noDuties = (id: string, engines: () => readonly string[]): Duties => ({
  id,
  engines,
  held: () => null,
  during: () => Promise.resolve(null)
});
