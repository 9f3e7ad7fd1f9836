import { encodeBatch, noOrigin, type Line, type LogProgress } from '../../src/lib/core/logs';
import { instant, minute, range, type Range } from '../../src/lib/core/time';
import { oneRow, openPool } from '../../src/lib/server/db/pool';
import type { LogQuery } from '../../src/lib/server/logs/log-search';
import { LogStore, usualLimits } from '../../src/lib/server/logs/log-store';
import { withDatabase } from './database';

/** When lines of these tests begin, and the hour from there. */
export const begin = instant(1_777_881_600_000);
export const hour: Range = range(begin, instant(begin + 3_600_000));

/** A store of lines on a real database, empty before each test, and what its tests say again and again. */
export class LogStoreFixture {
  readonly database = withDatabase();
  readonly accounts: number[] = [];
  store!: LogStore;

  readonly addAccount = async (name: string): Promise<number> =>
    oneRow(
      await this.database.db.rows<{ id: number }>(
        `insert into accounts (name, provider, endpoint, key_id, secret_sealed, created_at, created_by, history_from)
         values ($1, 'pushed', '', '', '', $2, '', $2)
         returning id`,
        [name, begin]
      )
    ).id;

  /** Another store on the same database, as another process has one; whoever opens it closes it. */
  readonly opened = async (): Promise<LogStore> => {
    const one = new LogStore(openPool(this.database.connection, 2));
    await one.open();
    return one;
  };

  /** Removes all lines and begins with another store. */
  readonly empty = async (): Promise<void> => {
    await this.database.db.rows('delete from log_streams');
    await this.store.close();
    this.store = await this.opened();
  };

  readonly append = (stream: string, lines: readonly Line[], accountId = this.accounts[0] ?? 0): Promise<number> =>
    this.store.append(begin, [
      { accountId, service: 'functions', stream, resourceId: null, batch: encodeBatch(noOrigin, lines) }
    ]);

  /** What a search of the hour comes to. */
  readonly found = async (text: string, more: Partial<LogQuery> = {}, of = this.store): Promise<LogProgress> => {
    const query = { text, range: hour, most: 100, step: minute, accounts: null, resources: new Map(), ...more };
    const ticket = await of.search(query);
    if (ticket === null) throw new Error('too many searches are under way');
    for (;;) {
      const progress = await of.progress(ticket);
      if (progress === null) throw new Error('the search is gone');
      if (progress.isDone) return progress;
    }
  };
  readonly texts = async (text: string, more: Partial<LogQuery> = {}, of = this.store): Promise<string[]> =>
    (await this.found(text, more, of)).lines.map((line) => line.text);
  readonly sealAll = (of = this.store): Promise<number> => of.seal(begin, { ...usualLimits, lines: 20, all: 0 });
}

/** {@link LogStoreFixture} for the tests of a `describe`. */
export function withLogStore(): LogStoreFixture {
  const fixture = new LogStoreFixture();
  before(async () => {
    for (const name of ['corallo-prod', 'perla-data']) fixture.accounts.push(await fixture.addAccount(name));
  });
  beforeEach(async () => {
    await fixture.database.db.rows('delete from log_streams');
    fixture.store = await fixture.opened();
  });
  afterEach(() => fixture.store.close());
  return fixture;
}
