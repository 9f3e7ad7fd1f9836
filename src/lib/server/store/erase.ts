// journal, chunks, series_spans, bad_chunks: all of one account
import type { Queryable } from '../db/pool';

/** Rows that one statement removes, so that it stays short. */
const mostAtOnce = 2000;

/** Erases the samples of an account, some at a time. Killed in between, the rest is erased by the next call. */
export async function eraseSamples(db: Queryable, accountId: number): Promise<void> {
  for (const [table, key] of [
    ['journal', 'id'],
    ['chunks', 'series_id, resolution_ms, period_from'],
    ['series_spans', 'series_id'],
    ['bad_chunks', 'series_id, resolution_ms, period_from']
  ])
    for (let removed = mostAtOnce; removed === mostAtOnce;)
      removed = (
        await db.rows(
          `delete from ${table}
           where account_id = $1 and (${key}) in (select ${key} from ${table} where account_id = $1 limit ${mostAtOnce})
           returning account_id`,
          [accountId]
        )
      ).length;
}
