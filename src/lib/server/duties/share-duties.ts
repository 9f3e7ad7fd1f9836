import type { Logger } from 'pino';
import type { Database } from '../db/pool';
import { DutyLost, noDuties, type Duties, type Held } from './duties';
import { forgetGone, forgetProcess, goneAfterMs, noteProcess, type ProcessRow } from './processes';
import { engineFor } from './share';

/** How often a process says that it lives, and looks which duties are its own, ms. */
const everyMs = 1_000;
/** It counts on what it has for so long after it last said that it lives, ms: less than after which others take it for gone. */
const countsForMs = goneAfterMs - 1_500;
/** How often duties and processes that are gone are forgotten, in rounds. */
const tidyEvery = 300;

export interface SharingParts {
  readonly db: Database;
  readonly log: Logger;
  readonly process: Omit<ProcessRow, 'startedAt' | 'seenAt'>;
  /** Names of all duties that there are, besides accounts. */
  readonly wanted: (db: Database) => Promise<readonly string[]>;
}

/**
 * Shares duties with the other engines on a database. Which engine is to have which is the same whoever works it out (see {@link engineFor}); what another one has still, it is left until it hands it over or is gone.
 *
 * @returns the duties, once those that nobody has are taken, and what ends it: all is handed over at once then
 */
export async function shareDuties(parts: SharingParts): Promise<{ readonly duties: Duties; stop(): Promise<void> }> {
  const { db, log, process } = parts;
  const { id } = process;
  const held = new Map<string, Held>();
  /** Work of a duty that is under way. */
  const busy = new Map<string, number>();
  /** Duties to be handed over once nothing of them is under way. */
  const leaving = new Set<string>();
  let engines: readonly string[] = [];
  let countsUntil = 0;
  let rounds = 0;
  let looking: Promise<void> | null = null;
  let stopped = false;

  async function look(): Promise<void> {
    const asked = performance.now();
    engines = await noteProcess(db, process);
    if (process.role === 'web') return;
    // Whoever was taken for gone may have lost what it had.
    if (asked > countsUntil) held.clear();
    countsUntil = asked + countsForMs;
    const wanted = await parts.wanted(db);
    const mine = new Set(wanted.filter((name) => engineFor(name, engines) === id));
    for (const name of held.keys())
      if (mine.has(name)) leaving.delete(name);
      else leaving.add(name);
    await handOver();
    const missing = [...mine].filter((name) => !held.has(name));
    if (missing.length > 0) for (const one of await take(missing)) held.set(one.name, one);
    if (rounds++ % tidyEvery === 0) {
      await forgetGone(db);
      await db.rows('delete from duties where holder is null and not name = any($1::text[])', [wanted]);
    }
  }

  /** Takes duties that nobody has who lives. One whose holder is in the middle of a transaction waits for the next round. */
  async function take(names: readonly string[]): Promise<Held[]> {
    await db.rows('insert into duties (name) select unnest($1::text[]) on conflict (name) do nothing', [names]);
    return db.rows<Held>(
      `update duties
       set holder = $1, fence = fence + 1
       where name in (
         select name
         from duties
         where name = any($2::text[]) and (holder is null or holder = $1 or not holder = any($3::text[]))
         order by name
         for update skip locked)
       returning name, fence`,
      [id, names, engines]
    );
  }

  async function handOver(): Promise<void> {
    const names = [...leaving].filter((name) => (busy.get(name) ?? 0) === 0);
    if (names.length === 0) return;
    for (const name of names) {
      held.delete(name);
      leaving.delete(name);
    }
    await db.rows('update duties set holder = null where name = any($1::text[]) and holder = $2', [names, id]);
  }

  const lookSoon = (): void => {
    looking ??= look()
      .catch((error: unknown) => log.error({ err: error }, 'duties could not be looked at; it is tried again'))
      .finally(() => (looking = null));
  };
  const heldNow = (name: string): Held | null =>
    stopped || performance.now() > countsUntil || leaving.has(name) ? null : (held.get(name) ?? null);

  await look();
  const timer = setInterval(lookSoon, everyMs);
  const duties: Duties =
    process.role === 'web'
      ? noDuties(id, () => engines)
      : {
          id,
          engines: () => engines,
          held: heldNow,
          during: async (name, work) => {
            const one = heldNow(name);
            if (one === null) return null;
            busy.set(name, (busy.get(name) ?? 0) + 1);
            try {
              return await work(one);
            } catch (error) {
              if (!(error instanceof DutyLost)) throw error;
              if (held.get(name) === one) held.delete(name);
              log.warn({ duty: name }, 'a duty was taken over by another process');
              return null;
            } finally {
              busy.set(name, (busy.get(name) ?? 1) - 1);
            }
          }
        };
  return {
    duties,
    stop: async () => {
      stopped = true;
      clearInterval(timer);
      await looking;
      await forgetProcess(db, id);
    }
  };
}
