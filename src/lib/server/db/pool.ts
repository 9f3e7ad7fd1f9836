import pg from 'pg';
import { timed } from '../base/own-counters';

/** How to reach the database: a URL, or the folder of a Unix socket. */
export type Connection =
  { readonly connectionString: string } | { readonly host: string; readonly user: string; readonly database: string };

/** Whatever runs a statement: the pool, or one connection inside a transaction. */
export interface Queryable {
  /**
   * Runs one statement. Every value is a parameter; an undefined one is refused rather than turned into null.
   * Rows are returned as the driver reads them: 64-bit integers as numbers (instants are far below 2^53), `bytea` as Buffer.
   */
  rows<Row extends object>(statement: string, values?: readonly unknown[]): Promise<Row[]>;
}

export interface Database extends Queryable {
  /** Runs work in one transaction: committed when it resolves, rolled back when it rejects. */
  transaction<T>(work: (within: Queryable) => Promise<T>): Promise<T>;
  close(): Promise<void>;
}

const int8 = 20;

const types: pg.CustomTypesConfig = {
  getTypeParser: (id: number, format?: 'text' | 'binary'): ((value: never) => unknown) =>
    id === int8 && format !== 'binary' ? Number : (pg.types.getTypeParser(id, format) as (value: never) => unknown)
};

/** The longest that a statement may take, ms: well below what the watchdog takes for a database that hangs. */
const longestStatement = 120_000;

/**
 * Opens a pool of connections; each is made when it is first needed. A statement that takes longer than two minutes fails, and its connection is closed.
 *
 * @param connections how many at most, from 1
 * @param longest ms that a statement may take; null for as long as it needs
 * @example const db = openPool({ connectionString: 'postgres://bussola@db.example.test/bussola' })
 */
export function openPool(connection: Connection, connections = 6, longest: number | null = longestStatement): Database {
  const pool = new pg.Pool({ ...connection, max: connections, types, ...deadlines(connection, longest) });
  // An idle connection that breaks is replaced by the pool; the next statement tells if the database is gone.
  pool.on('error', () => undefined);
  return {
    rows: (statement, values = []) => runOn(pool, statement, values),
    transaction: async (work) => {
      const client = await pool.connect();
      let broken: Error | undefined;
      try {
        await client.query('begin');
        const result = await work({ rows: (statement, values = []) => runOn(client, statement, values) });
        await client.query('commit');
        return result;
      } catch (error) {
        await client.query('rollback').catch((failure: Error) => (broken = failure));
        throw error;
      } finally {
        client.release(broken);
      }
    },
    close: () => pool.end()
  };
}

/** The embedded database does not heed a deadline itself; a server does, and then the connection can be used again. */
function deadlines(connection: Connection, longest: number | null): pg.PoolConfig {
  if (longest === null) return {};
  return {
    query_timeout: longest + 500,
    ...('connectionString' in connection ? { statement_timeout: longest } : {})
  };
}

async function runOn<Row extends object>(
  on: pg.Pool | pg.PoolClient,
  statement: string,
  values: readonly unknown[]
): Promise<Row[]> {
  const missing = values.indexOf(undefined);
  if (missing !== -1)
    throw new TypeError(`rows: parameter $${missing + 1} is undefined in: ${statement.trim().slice(0, 80)}`);
  const { rows } = await timed('statements', () => on.query<Row>(statement, [...values]), {
    attributes: { 'db.system.name': 'postgresql', 'db.query.text': statement },
    slow: () => ({ kind: 'statements', key: statement })
  });
  return rows;
}

/** The one row a statement must yield. @throws when it yields none or several */
export function oneRow<Row>(rows: readonly Row[]): Row {
  if (rows.length !== 1) throw new Error(`oneRow: expected 1 row, got ${rows.length}`);
  return rows[0] as Row;
}

/** Whether an error is the database's refusal of a reference to a row that does not exist (code 23503). */
export const namesWhatIsGone = (error: unknown): boolean =>
  error instanceof Error && (error as { code?: string }).code === '23503';

/** Whether an error is the database's refusal of a value that must be unique (code 23505). */
export const isTaken = (error: unknown): boolean =>
  error instanceof Error && (error as { code?: string }).code === '23505';
