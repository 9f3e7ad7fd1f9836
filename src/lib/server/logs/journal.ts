// log_journal
import type { Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';

/** Lines of one stream and one origin, about to be written. */
export interface NewLines {
  readonly streamId: number;
  readonly resourceId: number | null;
  readonly lines: number;
  readonly batch: Uint8Array;
}

/** Lines as they stand in the journal. */
export interface JournalledLines {
  readonly id: number;
  readonly streamId: number;
  readonly resourceId: number | null;
  readonly receivedAt: Instant;
  readonly batch: Buffer;
}

/** Any number, only ours: keeps writers of the journal in single file, so that ids become visible in their order. */
const journalLock = 20_261_128;

/**
 * Writes lines; once this resolves, they are stored, whatever happens to the process. Their bytes travel as one parameter, which is many times faster than as an array.
 *
 * @returns the ids of the rows, in the order of the batches, above every id seen so far
 */
export async function journalLines(
  db: Queryable,
  batches: readonly NewLines[],
  receivedAt: Instant
): Promise<number[]> {
  let offset = 1;
  const rows = await db.rows<{ id: number }>(
    `insert into log_journal (stream_id, resource_id, received_at, lines, batch)
     select stream_id, resource_id, $2::bigint, lines, substring($3::bytea from start for length)
     from (select pg_advisory_xact_lock($1)) as single_file,
       unnest($4::integer[], $5::integer[], $6::integer[], $7::integer[], $8::integer[])
         with ordinality as packed (stream_id, resource_id, lines, start, length, place)
     order by place
     returning id`,
    [
      journalLock,
      receivedAt,
      Buffer.concat(batches.map(({ batch }) => batch)),
      batches.map((one) => one.streamId),
      batches.map((one) => one.resourceId),
      batches.map((one) => one.lines),
      batches.map(({ batch }) => (offset += batch.byteLength) - batch.byteLength),
      batches.map(({ batch }) => batch.byteLength)
    ]
  );
  return rows.map(({ id }) => id).sort((a, b) => a - b);
}

/** The next lines behind an id, oldest first, about 8 MB of them at most but at least one batch. */
export const journalledAfter = (db: Queryable, id: number): Promise<JournalledLines[]> =>
  db.rows(
    `select id, stream_id as "streamId", resource_id as "resourceId", received_at as "receivedAt", batch
     from (
       select *, sum(length(batch)) over (order by id) - length(batch) as before
       from (select * from log_journal where id > $1 order by id limit 500) as next
     ) as sized
     where before < 8000000
     order by id`,
    [id]
  );
