// log_segments, log_shapes
import { promisify } from 'node:util';
import { brotliCompressSync, brotliDecompress, constants } from 'node:zlib';
import type { WrittenSegment } from '$lib/core/logs/segment';
import { readSummary, writeSummary, type SegmentSummary, type Shape } from '$lib/core/logs';
import type { Instant } from '$lib/core/time';
import { oneRow, type Queryable } from '../db/pool';

/** What is always known of a segment. */
export interface SegmentEntry {
  readonly id: number;
  readonly streamId: number;
  readonly from: Instant;
  readonly to: Instant;
  readonly lines: number;
  /** Where each part ends. */
  readonly ends: readonly number[];
}

/** Columns are short of patterns that more effort would find: better is slower and hardly smaller. */
const params = { [constants.BROTLI_PARAM_QUALITY]: 5, [constants.BROTLI_PARAM_LGWIN]: 18 };
const packed = (bytes: Uint8Array): Buffer => brotliCompressSync(bytes, { params });
/** The most that a part or a summary may have once it is unpacked: none that was written here has more. */
const mostUnpacked = 512 * 1024 * 1024;
const decompress = promisify(brotliDecompress);
/** On threads of the system: several are unpacked at once, beside what is made of others. */
const unpacked = (bytes: Uint8Array): Promise<Buffer> => decompress(bytes, { maxOutputLength: mostUnpacked });

const columns = `id, stream_id as "streamId", from_at as "from", to_at as "to", lines, ends`;

/** Segments behind an id, in order. */
export const segmentsAfter = (db: Queryable, id: number): Promise<SegmentEntry[]> =>
  db.rows(`select ${columns} from log_segments where id > $1 order by id`, [id]);

/** Writes a segment. @returns how it is found again */
export async function putSegment(
  db: Queryable,
  streamId: number,
  { summary, parts }: WrittenSegment,
  sealedAt: Instant
): Promise<SegmentEntry> {
  const all = parts.map(packed);
  let end = 0;
  return oneRow(
    await db.rows<SegmentEntry>(
      `insert into log_segments (stream_id, from_at, to_at, lines, raw_bytes, summary, parts, ends, sealed_at)
       values ($1, $2, $3, $4, $5, $6, $7, $8, $9)
       returning ${columns}`,
      [
        ...[streamId, summary.from, summary.to, summary.lines, summary.raw],
        ...[packed(writeSummary(summary)), Buffer.concat(all), all.map(({ length }) => (end += length)), sealedAt]
      ]
    )
  );
}

/** Whether an error says that stored bytes are damaged: not what was written, or not packed. */
export const isDamage = (error: unknown): error is Error =>
  error instanceof RangeError ||
  (error instanceof Error && /^(?:ERR__ERROR_|Z_|ERR_BUFFER_TOO_LARGE)/.test((error as { code?: string }).code ?? ''));

/** What is done about a segment that is damaged: it hides nothing but itself. */
export type OnDamage = (segmentId: number, error: Error) => void;

/** The summaries of some segments, by their ids; those that are gone are left out, and those that are damaged. */
export async function summariesOf(
  db: Queryable,
  ids: readonly number[],
  onDamage: OnDamage
): Promise<Map<number, SegmentSummary>> {
  const rows = await db.rows<{ id: number; summary: Buffer }>(
    'select id, summary from log_segments where id = any($1::integer[])',
    [ids]
  );
  const found = new Map<number, SegmentSummary>();
  await Promise.all(
    rows.map(async ({ id, summary }) => {
      try {
        found.set(id, readSummary(await unpacked(summary)));
      } catch (error) {
        if (!isDamage(error)) throw error;
        onDamage(id, error);
      }
    })
  );
  return found;
}

/** Some parts of segments, unpacked, by segment and part; of those that are gone or damaged there is nothing. */
export async function partsOf(
  db: Queryable,
  wanted: readonly { readonly segment: SegmentEntry; readonly part: number }[],
  onDamage: OnDamage
): Promise<Map<number, Map<number, Uint8Array>>> {
  const rows = await db.rows<{ id: number; part: number; bytes: Buffer }>(
    `select wanted.id, part, substring(parts from start for length) as bytes
     from unnest($1::integer[], $2::integer[], $3::integer[], $4::integer[]) as wanted (id, part, start, length)
     join log_segments on log_segments.id = wanted.id`,
    [
      wanted.map(({ segment }) => segment.id),
      wanted.map(({ part }) => part),
      wanted.map(({ segment: { ends }, part }) => 1 + (ends[part - 1] ?? 0)),
      wanted.map(({ segment: { ends }, part }) => (ends[part] ?? 0) - (ends[part - 1] ?? 0))
    ]
  );
  const found = new Map<number, Map<number, Uint8Array>>();
  const damaged = new Set<number>();
  await Promise.all(
    rows.map(async ({ id, part, bytes }) => {
      let parts = found.get(id);
      if (parts === undefined) found.set(id, (parts = new Map<number, Uint8Array>()));
      try {
        parts.set(part, await unpacked(bytes));
      } catch (error) {
        if (!isDamage(error)) throw error;
        damaged.add(id);
        onDamage(id, error);
      }
    })
  );
  for (const id of damaged) found.delete(id);
  return found;
}

/** A shape of a stream, and when it was seen. */
export interface StoredShape extends Shape {
  readonly streamId: number;
  readonly firstAt: Instant;
  readonly lastAt: Instant;
}

export const allShapes = (db: Queryable): Promise<StoredShape[]> =>
  db.rows(
    `select stream_id as "streamId", id, words, lines as count, first_at as "firstAt", last_at as "lastAt" from log_shapes order by stream_id, id`
  );

/** Writes how the shapes of a stream stand now. */
export async function putShapes(db: Queryable, shapes: readonly StoredShape[]): Promise<void> {
  if (shapes.length === 0) return;
  await db.rows(
    `insert into log_shapes (stream_id, id, words, lines, first_at, last_at)
     select stream_id, id, words::jsonb, lines, first_at, last_at
     from unnest($1::integer[], $2::integer[], $3::text[], $4::bigint[], $5::bigint[], $6::bigint[])
       as shape (stream_id, id, words, lines, first_at, last_at)
     on conflict (stream_id, id) do update
     set words = excluded.words, lines = excluded.lines, first_at = excluded.first_at, last_at = excluded.last_at`,
    [
      shapes.map(({ streamId }) => streamId),
      shapes.map(({ id }) => id),
      shapes.map(({ words }) => JSON.stringify(words)),
      shapes.map(({ count }) => count),
      shapes.map(({ firstAt }) => firstAt),
      shapes.map(({ lastAt }) => lastAt)
    ]
  );
}

/** Takes what was sealed out of the journal, without what is damaged, and says so for other processes. */
export async function noteSealed(
  db: Queryable,
  streamId: number,
  upTo: number,
  damaged: readonly number[]
): Promise<void> {
  await db.rows('delete from log_journal where stream_id = $1 and id <= $2 and id <> all($3::integer[])', [
    streamId,
    upTo,
    damaged
  ]);
  await db.rows('update log_streams set sealed_id = greatest(sealed_id, $2) where id = $1', [streamId, upTo]);
}
