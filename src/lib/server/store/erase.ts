// journal, chunks, series_spans, bad_chunks: all of one account
import { oneRow, type Queryable } from '../db/pool';

/** Rows that one statement removes, so that it stays short. */
const mostAtOnce = 2000;

/** Where samples are, each with what tells its rows apart. */
const tables = [
  ['journal', 'id'],
  ['chunks', 'series_id, resolution_ms, period_from'],
  ['series_spans', 'series_id'],
  ['bad_chunks', 'series_id, resolution_ms, period_from']
] as const;

/** Erases some of the samples of an account. @returns rows that were removed; 0 once all are */
export async function eraseSome(db: Queryable, accountId: number): Promise<number> {
  for (const [table, key] of tables) {
    const removed = await db.rows(
      `delete from ${table}
       where account_id = $1 and (${key}) in (select ${key} from ${table} where account_id = $1 limit ${mostAtOnce})
       returning account_id`,
      [accountId]
    );
    if (removed.length > 0) return removed.length;
  }
  return 0;
}

/** Rows that the samples of an account are stored in. */
export async function rowsOfSamples(db: Queryable, accountId: number): Promise<number> {
  const counts = tables.map(([table]) => `(select count(*) from ${table} where account_id = $1)`);
  return Number(oneRow(await db.rows<{ count: string }>(`select ${counts.join(' + ')} as count`, [accountId])).count);
}
