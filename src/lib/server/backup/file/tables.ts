// every table: which there are, of which columns, and where their numbers go on
import type { Queryable } from '../../db/pool';

/** A column that rows are restored with; what the database itself makes of others is none. */
export interface Column {
  readonly name: string;
  /** As PostgreSQL writes it, such as `bigint` or `jsonb`. */
  readonly type: string;
}

export interface Table {
  readonly name: string;
  readonly columns: readonly Column[];
}

/** Left out: of which migration a database is says the backup itself, and the others are about processes that run. */
const leftOut = ['migrations', 'processes', 'duties', 'news', 'limits'];

/**
 * The tables of Bussola in a database that a backup has, by name.
 *
 * @example (await tablesOf(db)).find(({ name }) => name === 'boards')?.columns[0] // { name: 'id', type: 'integer' }
 */
export async function tablesOf(db: Queryable): Promise<Table[]> {
  const rows = await db.rows<{ table: string; column: string; type: string }>(
    `select relname as table, attname as column, format_type(atttypid, atttypmod) as type
     from pg_class
     join pg_attribute on attrelid = pg_class.oid
     where relnamespace = current_schema()::regnamespace and relkind in ('r', 'p') and not relispartition and not relname = any($1::text[])
       and attnum > 0 and not attisdropped and attgenerated = ''
     order by relname, attnum`,
    [leftOut]
  );
  const tables = new Map<string, Column[]>();
  for (const { table, column, type } of rows) {
    const columns = tables.get(table) ?? [];
    columns.push({ name: column, type });
    tables.set(table, columns);
  }
  return [...tables].map(([name, columns]) => ({ name, columns }));
}

/** Where the numbers of a column go on. */
export interface Counter {
  readonly table: string;
  readonly column: string;
  /** The last number that was given; null for none yet. As text: it may be larger than a number of JSON. */
  readonly last: string | null;
}

export const countersOf = (db: Queryable): Promise<Counter[]> =>
  db.rows<Counter>(
    `select owner.relname as table, attname as column, last_value::text as last
     from pg_sequences
     join pg_class as sequence on sequence.relname = sequencename and sequence.relnamespace = current_schema()::regnamespace
     join pg_depend on objid = sequence.oid and classid = 'pg_class'::regclass and refobjsubid > 0
     join pg_class as owner on owner.oid = refobjid
     join pg_attribute on attrelid = refobjid and attnum = refobjsubid
     where schemaname = current_schema() and not owner.relname = any($1::text[])
     order by 1, 2`,
    [leftOut]
  );

/** A name in a statement. @example quoted('boards') // '"boards"' */
export const quoted = (name: string): string => `"${name.replaceAll('"', '""')}"`;

/** Types whose values JSON holds exactly; those of all others are written as text. */
const plain: ReadonlySet<string> = new Set([
  'boolean',
  'smallint',
  'integer',
  'bigint',
  'text',
  'double precision',
  'bytea'
]);

/** What reads a table as one JSON object a row. */
export function rowsStatement({ name, columns }: Table): string {
  const list = columns.map((one) =>
    plain.has(one.type) ? quoted(one.name) : `${quoted(one.name)}::text as ${quoted(one.name)}`
  );
  return `select row_to_json(backup_row)::text as line from (select ${list.join(', ')} from ${quoted(name)}) as backup_row`;
}

/** What stores rows that {@link rowsStatement} read, given as a JSON list. */
export function storeStatement({ name, columns }: Table): string {
  const names = columns.map((one) => quoted(one.name)).join(', ');
  const typed = columns.map((one) => `${quoted(one.name)} ${plain.has(one.type) ? one.type : 'text'}`);
  const values = columns.map((one) => (plain.has(one.type) ? quoted(one.name) : `${quoted(one.name)}::${one.type}`));
  return `insert into ${quoted(name)} (${names}) overriding system value
    select ${values.join(', ')} from json_to_recordset($1::json) as backup_row (${typed.join(', ')})`;
}

/** How values are written, whatever the session has been told before. */
export async function writePlainly(within: Queryable): Promise<void> {
  await within.rows(
    `select set_config('timezone', 'UTC', true), set_config('datestyle', 'ISO', true), set_config('intervalstyle', 'iso_8601', true),
       set_config('extra_float_digits', '1', true), set_config('bytea_output', 'hex', true)`
  );
}

/** Reads the rows of a table in lines, some at a time: about two megabytes. It must be within a transaction. */
export async function* linesOf(within: Queryable, table: Table): AsyncGenerator<string[]> {
  await within.rows(`declare backup_rows no scroll cursor for ${rowsStatement(table)}`);
  for (let next = 32; ;) {
    const rows = await within.rows<{ line: string }>(`fetch forward ${next} from backup_rows`);
    if (rows.length === 0) break;
    const lines = rows.map(({ line }) => line);
    yield lines;
    const size = lines.reduce((sum, line) => sum + line.length, 0) / lines.length;
    next = Math.max(1, Math.min(20_000, next * 4, Math.round(aimedAt / size)));
  }
  await within.rows('close backup_rows');
}

/** Characters that are read at a time. */
const aimedAt = 2_000_000;
