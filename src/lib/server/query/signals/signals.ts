// signals
import { signalForm, type Signal } from '$lib/core/signal';
import { readableOf, readStored, unreadableOf, writeStored } from '$lib/core/forms/stored';
import type { Problem } from '$lib/core/problem/problem';
import type { Instant } from '$lib/core/time';
import { oneRow, type Queryable } from '../../db/pool';

/** A signal that somebody saved under a name. */
export interface NamedSignal {
  readonly id: number;
  readonly name: string;
  readonly definition: Signal;
  readonly changedAt: Instant;
  readonly changedBy: string;
}

type Row = Omit<NamedSignal, 'definition'> & { readonly definition: unknown };
const columns = `id, name, definition, changed_at as "changedAt", changed_by as "changedBy"`;

const fromRow = (row: Row): NamedSignal => ({ ...row, definition: readStored(signalForm, row.definition, row.name) });

const allRows = (db: Queryable): Promise<Row[]> => db.rows<Row>(`select ${columns} from signals order by name`);

/** Every signal that can be read. */
export const allSignals = async (db: Queryable): Promise<NamedSignal[]> => readableOf(await allRows(db), fromRow);

/** Why some signals cannot be read. */
export const unreadableSignals = async (db: Queryable): Promise<Problem[]> => unreadableOf(await allRows(db), fromRow);

export async function signalById(db: Queryable, id: number): Promise<NamedSignal | null> {
  const [row] = await db.rows<Row>(`select ${columns} from signals where id = $1`, [id]);
  return row ? fromRow(row) : null;
}

/** @throws the database's unique violation (23505) when the name is taken */
export async function insertSignal(
  db: Queryable,
  name: string,
  definition: Signal,
  by: string,
  at: Instant
): Promise<NamedSignal> {
  const rows = await db.rows<Row>(
    `insert into signals (name, definition, created_at, created_by, changed_at, changed_by)
     values ($1, $2, $3, $4, $3, $4)
     returning ${columns}`,
    [name, writeStored(signalForm, definition), at, by]
  );
  return fromRow(oneRow(rows));
}

/** @throws the database's unique violation (23505) when the name is taken */
export async function changeSignal(
  db: Queryable,
  id: number,
  name: string,
  definition: Signal,
  by: string,
  at: Instant
): Promise<NamedSignal | null> {
  const [row] = await db.rows<Row>(
    `update signals
     set name = $2, definition = $3, changed_at = $4, changed_by = $5
     where id = $1
     returning ${columns}`,
    [id, name, writeStored(signalForm, definition), at, by]
  );
  return row ? fromRow(row) : null;
}

export async function removeSignal(db: Queryable, id: number): Promise<void> {
  await db.rows('delete from signals where id = $1', [id]);
}
