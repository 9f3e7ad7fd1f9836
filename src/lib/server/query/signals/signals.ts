// signals
import type { Signal } from '$lib/core/signal';
import type { Instant } from '$lib/core/time';
import { oneRow, type Queryable } from '../../db/pool';

/** A signal that somebody kept under a name. */
export interface NamedSignal {
  readonly id: number;
  readonly name: string;
  readonly definition: Signal;
  readonly changedAt: Instant;
  readonly changedBy: string;
}

const columns = `id, name, definition, changed_at as "changedAt", changed_by as "changedBy"`;

export const allSignals = (db: Queryable): Promise<NamedSignal[]> =>
  db.rows<NamedSignal>(`select ${columns} from signals order by name`);

export async function signalById(db: Queryable, id: number): Promise<NamedSignal | null> {
  const rows = await db.rows<NamedSignal>(`select ${columns} from signals where id = $1`, [id]);
  return rows[0] ?? null;
}

/** @throws the database's unique violation (23505) when the name is taken */
export async function insertSignal(
  db: Queryable,
  name: string,
  definition: Signal,
  by: string,
  at: Instant
): Promise<NamedSignal> {
  return oneRow(
    await db.rows<NamedSignal>(
      `insert into signals (name, definition, created_at, created_by, changed_at, changed_by)
       values ($1, $2, $3, $4, $3, $4)
       returning ${columns}`,
      [name, JSON.stringify(definition), at, by]
    )
  );
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
  const rows = await db.rows<NamedSignal>(
    `update signals
     set name = $2, definition = $3, changed_at = $4, changed_by = $5
     where id = $1
     returning ${columns}`,
    [id, name, JSON.stringify(definition), at, by]
  );
  return rows[0] ?? null;
}

export async function removeSignal(db: Queryable, id: number): Promise<void> {
  await db.rows('delete from signals where id = $1', [id]);
}
