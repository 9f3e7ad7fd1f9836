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
  /** Whether a program that does not know it can go on beside it: it adds, and changes nothing that is there. */
  readonly isAdditive: boolean;
}

/** How the file of a migration begins beside which the program before it can go on. */
const additiveMark = '-- Adds only.';
/** Any number, only ours: of several processes that start at once, one migrates. */
const migratingLock = 20_261_202;

/** Numbered SQL files, in order: beside this file, or with the workers once built. */
export function migrations(): Migration[] {
  const folder = dirname(unbundled('db/migrations/001-begin.sql'));
  return readdirSync(folder)
    .filter((name) => /^\d{3}-.*\.sql$/.test(name))
    .sort()
    .map((name) => {
      const sql = readFileSync(join(folder, name), 'utf8');
      return { number: Number(name.slice(0, 3)), name, sql, isAdditive: sql.startsWith(additiveMark) };
    });
}

/** The version of a data folder: the highest migration known. @example knownVersion() // 1 */
export const knownVersion = (): number => migrations().at(-1)?.number ?? 0;

/**
 * Applies what is missing, each migration in its own transaction; of several processes one does. A newer program may have added to the database meanwhile: this one goes on beside that.
 *
 * @param upTo the highest that is applied: for data that are of an earlier version, before they are brought up to date
 * @throws Refusal when a newer program changed what this one knows, or an older one works that could not go on; nothing is changed then
 * @example await migrate(db) // ['001-begin.sql'] on an empty database, [] on a current one
 */
export async function migrate(db: Database, upTo = Infinity): Promise<string[]> {
  await db.transaction(async (within) => {
    await within.rows('select pg_advisory_xact_lock($1)', [migratingLock]);
    await within.rows(`
      create table if not exists migrations (
        number integer primary key,
        name text not null
      )`);
    await within.rows('alter table migrations add column if not exists is_additive boolean not null default false');
  });
  const known = migrations();
  const applied = await db.rows<{ number: number; name: string; isAdditive: boolean }>(
    'select number, name, is_additive as "isAdditive" from migrations order by number'
  );
  const newer = applied.filter(
    ({ number, isAdditive }) => !isAdditive && !known.some((migration) => migration.number === number)
  );
  if (newer.length > 0)
    throw new Refusal(
      'newer-data',
      `The database was written by a newer Bussola (it has the migration ${newer.map(({ name }) => name).join(', ')}).`,
      'Start the newer Bussola on it, or name another database. Nothing in it was changed.'
    );
  const missing = known.filter(
    ({ number }) => number <= upTo && !applied.some((migration) => migration.number === number)
  );
  const changing = missing.filter(({ isAdditive }) => !isAdditive).at(-1);
  if (changing !== undefined && applied.some(({ number }) => number >= firstWithProcesses))
    await refuseWhileOlderRun(db, changing);
  const done: string[] = [];
  for (const { number, name, sql, isAdditive } of missing)
    await db.transaction(async (within) => {
      await within.rows('select pg_advisory_xact_lock($1)', [migratingLock]);
      // Another process may have been faster.
      if ((await within.rows('select 1 from migrations where number = $1', [number])).length > 0) return;
      for (const statement of statementsOf(sql)) await within.rows(statement);
      await within.rows('insert into migrations (number, name, is_additive) values ($1, $2, $3)', [
        number,
        name,
        isAdditive
      ]);
      done.push(name);
    });
  return done;
}

/** The migration since which it is known which processes work on a database. */
const firstWithProcesses = 54;

/** A program that knows nothing of a change would read and write as before it: it is to be ended first. One that was not seen for 6 s is gone, as duties/processes.ts has it. */
async function refuseWhileOlderRun(db: Database, { number, name }: Migration): Promise<void> {
  const older = await db.rows<{ instance: string; host: string }>(
    `select distinct instance, host
     from processes
     where schema < $1 and seen_at > extract(epoch from clock_timestamp()) * 1000 - 6000
     order by instance, host`,
    [number]
  );
  if (older.length === 0) return;
  throw new Refusal(
    'newer-data',
    `An older Bussola works on this database and could not go on beside ${name}: ${older.map(({ instance, host }) => `${instance} on ${host}`).join(', ')}.`,
    'End all of its processes, then start this one again.'
  );
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
