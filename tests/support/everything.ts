import { tablesOf } from '../../src/lib/server/backup/file/tables';
import type { Queryable } from '../../src/lib/server/db/pool';

/**
 * Every row of every table as PostgreSQL writes a row, sorted by itself: nothing of what a backup does.
 *
 * @param but tables that are left out
 * @example expect(await everythingIn(restored)).to.deep.equal(await everythingIn(db))
 */
export async function everythingIn(db: Queryable, but: readonly string[] = []): Promise<Record<string, string[]>> {
  const all: Record<string, string[]> = {};
  for (const { name } of await tablesOf(db))
    if (!but.includes(name))
      all[name] = (await db.rows<{ row: string }>(`select whole_row::text as row from "${name}" as whole_row`))
        .map(({ row }) => row)
        .sort();
  return all;
}
