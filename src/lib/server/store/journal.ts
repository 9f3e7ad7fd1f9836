// journal
import type { Instant } from '$lib/core/time';
import { oneRow, type Queryable } from '../db/pool';

/** One accepted batch, as it stands in the journal. */
export interface JournalRow {
  readonly id: number;
  readonly account_id: number;
  readonly received_at: Instant;
  readonly batch: Buffer;
}

/** A batch about to be written. */
export interface NewBatch {
  readonly accountId: number;
  /** Half-open range of its points' instants. */
  readonly from: number;
  readonly to: number;
  readonly points: number;
  readonly receivedAt: Instant;
  readonly bytes: Uint8Array;
}

/** Any number, only ours: keeps writers of the journal in single file, so that ids become visible in their order. */
const journalLock = 20_260_504;

/**
 * Writes a batch; once this resolves, it is stored, whatever happens to the process. One statement, so one transaction: the lock is held before the
 * row gets its id.
 *
 * @returns the row's id, above every id seen so far
 */
export async function appendToJournal(db: Queryable, batch: NewBatch): Promise<number> {
  const rows = await db.rows<{ id: number }>(
    `insert into journal (account_id, from_at, to_at, points, received_at, batch)
     select $2::integer, $3::bigint, $4::bigint, $5::integer, $6::bigint, $7::bytea
     from (select pg_advisory_xact_lock($1)) as single_file
     returning id`,
    [journalLock, batch.accountId, batch.from, batch.to, batch.points, batch.receivedAt, batch.bytes]
  );
  return oneRow(rows).id;
}

/**
 * The next batches behind an id, oldest first, about 8 MB of them at most but at least one, and up to where the journal is sealed, both at the same moment.
 */
export async function journalAfter(
  db: Queryable,
  id: number
): Promise<{ readonly sealedId: number; readonly batches: JournalRow[] }> {
  const rows = await db.rows<JournalRow & { sealed_id: number; id: number | null }>(
    `select sealed_id, sized.id, account_id, received_at, batch
     from sealing
     left join (
       select id, account_id, received_at, batch, sum(length(batch)) over (order by id) - length(batch) as before
       from (select id, account_id, received_at, batch from journal where id > $1 order by id limit 200) as next
     ) as sized on before < 8000000
     order by sized.id`,
    [id]
  );
  return {
    sealedId: rows[0]?.sealed_id ?? 0,
    batches: rows.filter((row): row is typeof row & { id: number } => row.id !== null)
  };
}

/** A batch without its points. */
export interface JournalEntry {
  readonly id: number;
  readonly points: number;
  readonly receivedAt: Instant;
}

/** Every batch in the journal, oldest first. */
export const journalEntries = (db: Queryable): Promise<JournalEntry[]> =>
  db.rows<JournalEntry>('select id, points, received_at as "receivedAt" from journal order by id');

/** The batches of a span of ids, both ends included. */
export const journalBetween = (db: Queryable, first: number, last: number): Promise<JournalRow[]> =>
  db.rows<JournalRow>('select id, account_id, received_at, batch from journal where id between $1 and $2 order by id', [
    first,
    last
  ]);

/** Batches and points in the journal. */
export async function journalSize(db: Queryable): Promise<{ batches: number; points: number; lastId: number }> {
  return oneRow(
    await db.rows<{ batches: number; points: number; lastId: number }>(
      'select count(*) as batches, coalesce(sum(points), 0)::bigint as points, coalesce(max(id), 0) as "lastId" from journal'
    )
  );
}
