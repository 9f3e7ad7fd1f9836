import { Refusal } from '$lib/core/problem/problem';
import { knownVersion, migrate } from '../../db/migrate';
import { inside } from '../../db/one-transaction';
import { oneRow, type Database, type Queryable } from '../../db/pool';
import type { About, End, OnProgress } from './format';
import { readBackup } from './read-backup';
import { RowsDigest } from './rows-digest';
import { linesOf, quoted, storeStatement, tablesOf, writePlainly, type Table } from './tables';

/** What was restored. */
export interface Restored {
  readonly about: About;
  readonly rows: number;
  readonly tables: number;
  /** Migrations that were applied after it: it is of an earlier version. */
  readonly migrated: readonly string[];
}

/**
 * Restores a backup into an empty database, reads everything again and compares it with what the backup says, and brings it up to date. Until it is compared, all is one transaction: where it
 * fails, or its process is killed, the database is as empty as before.
 *
 * @throws Refusal `database-taken`, `backup-unreadable`, `newer-data`; `backup-differs` where a row is not as it was
 * @example await restoreBackup(db, '/var/backups/bussola/today.tar.gz', () => {}) // { rows: 81344, tables: 96, migrated: [], about: { … } }
 */
export async function restoreBackup(db: Database, file: string, onProgress: OnProgress): Promise<Restored> {
  await refuseTaken(db);
  const { about, rows, tables } = await db.transaction(async (within) => {
    await writePlainly(within);
    const loaded = await load(within, db, file, onProgress);
    const rows = await compare(within, loaded, onProgress);
    return { about: loaded.about, rows, tables: loaded.tables.size };
  });
  onProgress({ doing: 'Brings it up to date', share: null });
  const migrated = await migrate(db);
  onProgress({ doing: 'Prepares the database to answer', share: null });
  await db.rows('analyze');
  return { about, rows, tables, migrated };
}

async function refuseTaken(db: Queryable): Promise<void> {
  const { count } = oneRow(
    await db.rows<{ count: number }>(
      `select count(*)::integer as count from pg_class where relnamespace = current_schema()::regnamespace and relkind in ('r', 'p', 'v', 'm')`
    )
  );
  if (count > 0)
    throw new Refusal(
      'database-taken',
      `The database is not empty: it has ${count} tables.`,
      'Name an empty one. Nothing in it was changed.'
    );
}

interface Loaded {
  readonly about: About;
  readonly end: End;
  readonly tables: ReadonlyMap<string, Table>;
}

async function load(within: Queryable, db: Database, file: string, onProgress: OnProgress): Promise<Loaded> {
  let tables = new Map<string, Table>();
  let restoreChecks: () => Promise<void> = () => Promise.resolve();
  const { about, end } = await readBackup(file, {
    about: async (said) => {
      const known = knownVersion();
      if (said.migration > known)
        throw new Refusal(
          'newer-data',
          `${file} was written by a newer Bussola, ${said.bussola} (its version is ${said.migration}, this program knows ${known}).`,
          'Restore it with that one. Nothing was changed.'
        );
      onProgress({ doing: 'Makes the tables', share: null });
      await migrate(inside(db, within), said.migration);
      tables = new Map((await tablesOf(within)).map((table) => [table.name, table]));
      const unlike = [...said.tables.filter((name) => !tables.has(name)), ...missingIn(said.tables, tables)];
      if (unlike.length > 0)
        throw new Refusal(
          'backup-unreadable',
          `${file} says to be of version ${said.migration}, and has other tables than that: ${unlike.slice(0, 3).join(', ')}.`,
          'Take another backup. Nothing was changed.'
        );
      restoreChecks = await withoutChecks(within, [...tables.values()]);
    },
    rows: async (name, lines, share) => {
      onProgress({ doing: `Restores ${name}`, share });
      const table = tables.get(name) as Table;
      for (const some of portions(lines)) await within.rows(storeStatement(table), [`[${some.join(',')}]`]);
    }
  });
  onProgress({ doing: 'Checks what refers to what', share: null });
  for (const { table, column, last } of end.counters)
    if (last !== null)
      await within.rows('select setval(pg_get_serial_sequence($1, $2), $3::bigint)', [quoted(table), column, last]);
  await restoreChecks();
  return { about, end, tables };
}

const missingIn = (said: readonly string[], tables: ReadonlyMap<string, Table>): string[] =>
  [...tables.keys()].filter((name) => !said.includes(name));

/** A statement takes so many characters, or one row. */
const mostAtOnce = 2_000_000;

function* portions(lines: readonly string[]): Generator<string[]> {
  let some: string[] = [];
  let size = 0;
  for (const line of lines) {
    if (some.length > 0 && size + line.length > mostAtOnce) {
      yield some;
      [some, size] = [[], 0];
    }
    some.push(line);
    size += line.length;
  }
  if (some.length > 0) yield some;
}

/**
 * Takes away what would stand in the way while rows come in any order: references between tables, and what happens when a row comes or goes. Empties every table of what its migrations stored.
 *
 * @returns what brings all of it back: every reference is checked then
 */
async function withoutChecks(within: Queryable, tables: readonly Table[]): Promise<() => Promise<void>> {
  const references = await within.rows<{ table: string; name: string; definition: string }>(
    `select relname as table, conname as name, pg_get_constraintdef(pg_constraint.oid) as definition
     from pg_constraint
     join pg_class on pg_class.oid = conrelid
     where contype = 'f' and connamespace = current_schema()::regnamespace and conparentid = 0
     order by 1, 2`
  );
  for (const { table, name } of references)
    await within.rows(`alter table ${quoted(table)} drop constraint ${quoted(name)}`);
  for (const { name } of tables) await within.rows(`alter table ${quoted(name)} disable trigger user`);
  await within.rows(`truncate ${tables.map(({ name }) => quoted(name)).join(', ')}`);
  return async () => {
    for (const { table, name, definition } of references)
      await within.rows(`alter table ${quoted(table)} add constraint ${quoted(name)} ${definition}`);
    for (const { name } of tables) await within.rows(`alter table ${quoted(name)} enable trigger user`);
  };
}

/** Reads every row again. @returns how many there are @throws Refusal where they are not those of the backup */
async function compare(within: Queryable, { tables, end }: Loaded, onProgress: OnProgress): Promise<number> {
  const expected = Object.values(end.tables).reduce((sum, one) => sum + one.rows, 0);
  let rows = 0;
  for (const table of tables.values()) {
    const digest = new RowsDigest();
    for await (const lines of linesOf(within, table)) {
      for (const line of lines) digest.add(line);
      rows += lines.length;
      onProgress({ doing: `Compares ${table.name}`, share: expected === 0 ? null : rows / expected });
    }
    const before = end.tables[table.name];
    if (before?.rows !== digest.rows || before.digest !== digest.text())
      throw new Refusal(
        'backup-differs',
        `${table.name} is not as it was: ${digest.rows.toLocaleString('en')} rows of ${(before?.rows ?? 0).toLocaleString('en')}${before?.rows === digest.rows ? ', with other values' : ''}.`,
        'Take another backup. Nothing was changed.'
      );
  }
  return rows;
}
