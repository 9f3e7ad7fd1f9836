// bill_reads
import { z } from 'zod';
import type { DayNumber } from '$lib/core/cost';
import type { Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';
import type { AccountError } from '../inventory/accounts';

/** Rows of a bill that were not read: how many, and the first of them with what is wrong. */
export const rejectedRowsSchema = z.object({
  count: z.number().int().nonnegative(),
  first: z.array(z.object({ line: z.number().int(), why: z.string() }))
});
export type RejectedRows = z.infer<typeof rejectedRowsSchema>;

/** How the bills of an account are read. */
export interface BillRead {
  readonly accountId: number;
  /** Days before this one do not change any more. */
  readonly settledUntil: DayNumber | null;
  /** Days from this one on are read; older ones follow. */
  readonly historyFrom: DayNumber | null;
  readonly readAt: Instant | null;
  readonly lastError: AccountError | null;
  readonly rejected: RejectedRows | null;
}

const columns = `account_id as "accountId", settled_until as "settledUntil", history_from as "historyFrom", read_at as "readAt", last_error as "lastError", rejected`;

export const allBillReads = async (db: Queryable): Promise<BillRead[]> =>
  (await db.rows<BillRead>(`select ${columns} from bill_reads`)).map(asRead);

export async function billReadOf(db: Queryable, accountId: number): Promise<BillRead | null> {
  const [row] = await db.rows<BillRead>(`select ${columns} from bill_reads where account_id = $1`, [accountId]);
  return row ? asRead(row) : null;
}

const asRead = (row: BillRead): BillRead => ({
  ...row,
  rejected: row.rejected === null ? null : rejectedRowsSchema.parse(row.rejected)
});

/** Notes how far the bills of an account are read. An account that was removed meanwhile has none. */
export async function noteBillRead(
  db: Queryable,
  accountId: number,
  { settledUntil, historyFrom, readAt, rejected }: Omit<BillRead, 'accountId' | 'lastError'>
): Promise<void> {
  await db.rows(
    `insert into bill_reads (account_id, settled_until, history_from, read_at, last_error, rejected)
     select $1, $2, $5, $3, null, $4::jsonb where exists (select 1 from accounts where id = $1)
     on conflict (account_id) do update
     set settled_until = excluded.settled_until, history_from = excluded.history_from, read_at = excluded.read_at, last_error = null, rejected = excluded.rejected`,
    [accountId, settledUntil, readAt, rejected === null ? null : JSON.stringify(rejected), historyFrom]
  );
}

/** Notes why the bills of an account could not be read. */
export async function noteBillError(db: Queryable, accountId: number, error: AccountError, at: Instant): Promise<void> {
  await db.rows(
    `insert into bill_reads (account_id, read_at, last_error)
     select $1, $2, $3::jsonb where exists (select 1 from accounts where id = $1)
     on conflict (account_id) do update set read_at = excluded.read_at, last_error = excluded.last_error`,
    [accountId, at, JSON.stringify(error)]
  );
}
