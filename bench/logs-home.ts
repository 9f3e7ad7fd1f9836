import { accountOf } from './lines';
import type { Home } from './homes';
import { openLogs, type LogClient } from '../src/lib/server/logs/open-logs';

/** A store of lines on a home, with an account whose lines they are; closed once the work is done. */
export async function withLogs<T>(home: Home, work: (client: LogClient, accountId: number) => Promise<T>): Promise<T> {
  const client = openLogs(home.connection);
  await client.ready;
  try {
    return await work(client, await accountOf(home.db));
  } finally {
    await client.close();
  }
}

/** What is sealed at once, however little it is. */
export const sealNow = { lines: 16_384, waits: 0, all: 0, bytes: 0 };
