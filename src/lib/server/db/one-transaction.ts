import type { Changes } from '../base/changes';
import type { Context } from './context';
import type { Database, Queryable } from './pool';

/**
 * Does several things in one transaction, each of which would begin one of its own. Changes are told once it is committed.
 *
 * @param work does them, with the context that it is given
 * @example await inOneTransaction(server, async (inner) => { await removeCheck(inner, 3); await removeCheck(inner, 4); })
 */
export async function inOneTransaction<Server extends Context, Result>(
  server: Server,
  work: (inner: Server, within: Queryable) => Promise<Result>
): Promise<Result> {
  const told: (() => void)[] = [];
  const result = await server.db.transaction((within) =>
    work({ ...server, db: inside(server.db, within), changes: later(server.changes, told) }, within)
  );
  for (const tell of told) tell();
  return result;
}

/** A database that is a transaction of another: what begins one within it goes on in the same. */
export const inside = (db: Database, within: Queryable): Database => ({
  rows: (text, values) => within.rows(text, values),
  transaction: (work) => work(within),
  close: () => db.close()
});

/** Changes that are told later; whoever listens hears of them as always. */
function later(changes: Changes, told: (() => void)[]): Changes {
  const buffered = Object.create(changes) as Changes;
  buffered.tell = (name, what) => {
    told.push(() => changes.tell(name, what));
  };
  // Its own count is no part of what is inherited.
  Object.defineProperty(buffered, 'version', { get: () => changes.version });
  return buffered;
}
