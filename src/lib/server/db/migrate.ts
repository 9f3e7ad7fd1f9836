import { Refusal } from '$lib/core/problem/problem';
// migrations
import { readdirSync, readFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { unbundled } from '../base/built';
import type { Database } from './pool';

interface Migration {
  readonly number: number;
  readonly name: string;
  readonly sql: string;
}

/** Numbered SQL files, in order: beside this file, or with the workers once built. */
export function migrations(): Migration[] {
  const folder = dirname(unbundled('db/migrations/001-begin.sql'));
  return readdirSync(folder)
    .filter((name) => /^\d{3}-.*\.sql$/.test(name))
    .sort()
    .map((name) => ({ number: Number(name.slice(0, 3)), name, sql: readFileSync(join(folder, name), 'utf8') }));
}

/** The version of a data folder: the highest migration known. @example knownVersion() // 1 */
export const knownVersion = (): number => migrations().at(-1)?.number ?? 0;

/**
 * Applies what is missing, each migration in its own transaction.
 *
 * @param upTo the highest that is applied: for data that are of an earlier version, before they are brought up to date
 * @throws Refusal when the database was written by a newer program; nothing is changed then
 * @example await migrate(db) // ['001-begin.sql'] on an empty database, [] on a current one
 */
export async function migrate(db: Database, upTo = Infinity): Promise<string[]> {
  await db.rows(`
    create table if not exists migrations (
      number integer primary key,
      name text not null
    )`);
  const known = migrations();
  const applied = await db.rows<{ number: number; name: string }>(
    'select number, name from migrations order by number'
  );
  const newer = applied.filter(({ number }) => !known.some((migration) => migration.number === number));
  if (newer.length > 0)
    throw new Refusal(
      'newer-data',
      `The database was written by a newer Bussola (it has the migration ${newer.map(({ name }) => name).join(', ')}).`,
      'Start the newer Bussola on it, or name another database. Nothing in it was changed.'
    );
  const missing = known.filter(
    ({ number }) => number <= upTo && !applied.some((migration) => migration.number === number)
  );
  for (const { number, name, sql } of missing)
    await db.transaction(async (within) => {
      for (const statement of statementsOf(sql)) await within.rows(statement);
      await within.rows('insert into migrations (number, name) values ($1, $2)', [number, name]);
    });
  return missing.map(({ name }) => name);
}

/** Statements end with a semicolon at the end of a line that is not within the body of a function, `$$`; our migrations keep to that. */
function statementsOf(sql: string): string[] {
  const statements: string[] = [];
  let begun = '';
  for (const part of sql.split(/;[^\S\n]*$/m)) {
    begun += begun === '' ? part : `;${part}`;
    if ((begun.match(/\$\$/g)?.length ?? 0) % 2 === 1) continue;
    statements.push(begun);
    begun = '';
  }
  return [...statements, begun]
    .map((statement) => statement.replace(/^\s*--.*$/gm, '').trim())
    .filter((statement) => statement !== '');
}
