// processes
import { Refusal } from '$lib/core/problem/problem';
import { oneRow, type Queryable } from '../db/pool';

/** What a process does: it serves people and programs, it works by itself, or both. */
export const roles = ['web', 'engine', 'all'] as const;
export type Role = (typeof roles)[number];

/** A process on a database. */
export interface ProcessRow {
  readonly id: string;
  /** What it is called among several. */
  readonly instance: string;
  readonly role: Role;
  readonly version: string;
  /** The newest migration that it knows. */
  readonly schema: number;
  readonly host: string;
  /** By the database's clock, ms since the epoch. */
  readonly startedAt: number;
  readonly seenAt: number;
}

/** What is not seen for so long has ended, ms. */
export const goneAfterMs = 6_000;
/** How long a process that has ended is listed, ms. */
const listedForMs = 3_600_000;

/** The database's time as SQL, ms since the epoch: of the statement, not of its transaction. */
export const databaseTime = '(extract(epoch from clock_timestamp()) * 1000)::bigint';

const columns = 'id, instance, role, version, schema, host, started_at as "startedAt", seen_at as "seenAt"';

/** Says that a process lives. @returns ids of the engines that do */
export async function noteProcess(db: Queryable, one: Omit<ProcessRow, 'startedAt' | 'seenAt'>): Promise<string[]> {
  const { engines } = oneRow(
    await db.rows<{ engines: string[] | null }>(
      `with mine as (
         insert into processes (id, instance, role, version, schema, host, started_at, seen_at)
         values ($1, $2, $3, $4, $5, $6, ${databaseTime}, ${databaseTime})
         on conflict (id) do update
         set seen_at = excluded.seen_at
         returning id, role)
       select array_agg(id order by id) as engines
       from (
         select id
         from mine
         where role <> 'web'
         union
         select id
         from processes
         where role <> 'web' and seen_at > ${databaseTime} - $7::bigint) as living`,
      [one.id, one.instance, one.role, one.version, one.schema, one.host, goneAfterMs]
    )
  );
  return engines ?? [];
}

/** Takes a process off that ends in order. */
export async function forgetProcess(db: Queryable, id: string): Promise<void> {
  await db.rows('update duties set holder = null where holder = $1', [id]);
  await db.rows('delete from processes where id = $1', [id]);
}

/** Forgets processes that ended without a word long ago. */
export async function forgetGone(db: Queryable): Promise<void> {
  await db.rows(`delete from processes where seen_at < ${databaseTime} - $1::bigint`, [listedForMs]);
}

/** Processes that live, or ended without a word within the last hour, the newest last. */
export async function listProcesses(db: Queryable): Promise<(ProcessRow & { readonly lives: boolean })[]> {
  return db.rows(
    `select ${columns}, seen_at > ${databaseTime} - $1::bigint as lives from processes order by started_at, id`,
    [goneAfterMs]
  );
}

/**
 * Refuses to share a database with other machines without a key of its own: each machine would have another one in its data folder, and open nothing that the others sealed.
 *
 * @throws Refusal `secrets-key` where a process lives on another machine
 */
export async function refuseOtherMachines(db: Queryable, host: string): Promise<void> {
  const other = (await listProcesses(db)).find((one) => one.lives && one.host !== host);
  if (other === undefined) return;
  throw new Refusal(
    'secrets-key',
    `Another process works on this database, on the machine ${other.host}, and BUSSOLA_KEY is not set here: what is secret could not be read on both.`,
    'Set BUSSOLA_KEY on each machine to the same key: that in the file "key" of the data folder that was there first.'
  );
}
