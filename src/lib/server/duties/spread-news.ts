// news
import type { Logger } from 'pino';
import { z } from 'zod';
import type { ChangeMap, Changes } from '../base/changes';
import { oneRow, type Database } from '../db/pool';
import { databaseTime } from './processes';

/** How often news are written and read, ms. */
const everyMs = 400;
/** News are stored for so long, ms. Whoever did not read for longer has missed some. */
const storedForMs = 120_000;
/** What is older than this is removed by whoever reads, in rounds. */
const trimEvery = 100;
/** Items in one row at most; what is more than that is told as that everything changed. */
const mostItems = 1_000;
/** Any number, only ours: keeps writers of news in single file, so that ids become visible in their order. */
const newsLock = 20_261_201;

const itemSchema = z.tuple([z.string(), z.record(z.string(), z.unknown())]);
const itemsSchema = z.array(itemSchema);
type Item = z.infer<typeof itemSchema>;

/** All that may have changed, for whoever missed what did. */
const everything: readonly (readonly [keyof ChangeMap, object])[] = [
  ['definition', { alarmId: null }],
  ['alarm', { alarmId: null }],
  ['account', { accountId: 0 }],
  ['routing', {}],
  ['reachability', { checkId: null }],
  ['costs', { accountId: null }],
  ['objectives', {}],
  ['responses', {}],
  ['summaries', {}],
  ['followers', {}],
  ['connectors', {}]
];

/**
 * Tells the other processes on a database what changed here, and tells here what changed there, within a second. News are hints: one that a killed process had not written yet is lost, and whoever depends on it looks
 * by itself now and then.
 *
 * @param id of this process
 * @returns what ends it, once what is to be told is written
 */
export async function spreadNews({
  db,
  changes,
  id,
  log
}: {
  readonly db: Database;
  readonly changes: Changes;
  readonly id: string;
  readonly log: Logger;
}): Promise<{ stop(): Promise<void> }> {
  /** What is to be told, each once. */
  let waiting = new Map<string, Item>();
  let read = oneRow(await db.rows<{ id: number }>('select coalesce(max(id), 0)::bigint as id from news')).id;
  let readAt = performance.now();
  let rounds = 0;
  let looking: Promise<void> | null = null;

  changes.spreadBy((name, what) => {
    const item: Item = [name, what as Item[1]];
    waiting.set(JSON.stringify(item), item);
  });

  async function write(): Promise<void> {
    if (waiting.size === 0) return;
    const told = waiting;
    waiting = new Map();
    const items = told.size > mostItems ? everything : [...told.values()];
    const writing = db.rows(
      `insert into news (process, items, at)
       select $2::text, $3::jsonb, ${databaseTime}
       from (select pg_advisory_xact_lock($1)) as single_file`,
      [newsLock, id, JSON.stringify(items)]
    );
    await writing.catch((error: unknown) => {
      waiting = new Map([...told, ...waiting]);
      throw error;
    });
  }

  async function hear(): Promise<void> {
    const began = performance.now();
    const missed = began - readAt > storedForMs / 2;
    const rows = await db.rows<{ id: number; process: string; items: unknown }>(
      'select id, process, items from news where id > $1 order by id limit 500',
      [read]
    );
    readAt = began;
    if (missed) for (const [name, what] of everything) changes.hear(name, what as never);
    for (const row of rows) {
      read = row.id;
      if (row.process === id) continue;
      for (const [name, what] of itemsSchema.parse(row.items)) changes.hear(name as keyof ChangeMap, what as never);
    }
    if (rounds++ % trimEvery === 0)
      await db.rows(`delete from news where at < ${databaseTime} - $1::bigint`, [storedForMs]);
  }

  const timer = setInterval(() => {
    looking ??= write()
      .then(hear)
      .catch((error: unknown) => log.error({ err: error }, 'news could not be exchanged; it is tried again'))
      .finally(() => (looking = null));
  }, everyMs);
  return {
    stop: async () => {
      clearInterval(timer);
      changes.spreadBy(null);
      await looking;
      await write();
    }
  };
}
