import type { Logger } from 'pino';
import type { Clock } from '$lib/core/time';
import type { Changes } from '../base/changes';
import type { Database } from '../db/pool';
import type { ConnectorPool } from '../providers/connector/connector-pool';
import { connectorProvider } from '../providers/connector/connector-provider';
import type { Provider } from '../providers/port/provider';
import { allConnectors, stampOfConnectors } from './stored-connectors';

/** What connectors are made known with. */
export interface KnownParts {
  readonly db: Database;
  readonly clock: Clock;
  readonly changes: Changes;
  readonly pool: ConnectorPool;
  readonly log: Logger;
}

/** How often it is looked, in real time, whether another process or a restored database has others, ms. */
const lookEveryMs = 5_000;

/**
 * The providers that are known, with those that stored connectors describe: they come and go while Bussola runs. A change is followed once it is told.
 *
 * @param built those that Bussola knows by itself; their keys are never another one's
 * @example const { providers } = await knownProviders(parts, providersWith(clock))
 */
export async function knownProviders(
  { db, clock, changes, pool, log }: KnownParts,
  built: Readonly<Record<string, Provider>>
): Promise<{
  readonly providers: Readonly<Record<string, Provider>>;
  refresh(): Promise<void>;
  stop(): Promise<void>;
}> {
  const providers: Record<string, Provider> = { ...built };
  /** Texts that were read, whatever came of it, by their keys. */
  const texts = new Map<string, string>();
  let stamp = '';
  let turn = Promise.resolve();

  async function read(): Promise<void> {
    const newest = await stampOfConnectors(db);
    if (newest === stamp) return;
    const stored = await allConnectors(db);
    const keys = new Set(stored.map(({ key }) => key));
    for (const key of texts.keys())
      if (!keys.has(key)) {
        texts.delete(key);
        delete providers[key];
      }
    for (const { key, text } of stored) {
      if (Object.hasOwn(built, key) || texts.get(key) === text) continue;
      const result = await pool.read(text);
      texts.set(key, text);
      if (result.kind === 'read') providers[key] = connectorProvider({ clock, pool, connector: result.connector });
      // It was checked when it was saved: an older Bussola may have permitted what this one does not.
      else log.error({ connector: key, problems: result.problems }, 'a connector cannot be read');
    }
    stamp = newest;
  }

  /** One reading after the other: of two changes the later one stays. */
  const refresh = (): Promise<void> => {
    turn = turn.then(read, read);
    return turn;
  };
  const look = (): void => {
    refresh().catch((error: unknown) => log.error({ err: error }, 'connectors cannot be read'));
  };
  changes.on('connectors', look);
  await refresh();
  const looking = setInterval(look, lookEveryMs);
  const stop = async (): Promise<void> => {
    clearInterval(looking);
    changes.off('connectors', look);
    await turn.catch(() => undefined); // what failed is in the log
  };
  return { providers, refresh, stop };
}
