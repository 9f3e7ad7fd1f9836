// chunks, series_spans, sealing
import { decodeChunk, encodeChunk } from '$lib/core/codec';
import { firstAtOrAfter, slicePoints, type SummaryPoints } from '$lib/core/series';
import type { Instant } from '$lib/core/time';
import { oneRow, type Queryable } from '../db/pool';

/** Which chunk: a series' samples (resolution 0) or rollups of one period. */
export interface ChunkKey {
  readonly accountId: number;
  readonly seriesId: number;
  readonly resolution: number;
  readonly periodFrom: number;
}

export interface Chunk extends ChunkKey {
  readonly points: SummaryPoints;
}

const day = 86_400_000;

/** The length of a chunk's period by resolution: each holds about as many points as a day of minutes. */
export const periodOf = (resolution: number): number =>
  resolution === 0 ? day : resolution < 3_600_000 ? 5 * day : 60 * day;

/** The periods, by their starts, that a half-open range touches. @example periodsIn(0, 0, 1) // [0] */
export function periodsIn(resolution: number, from: number, to: number): number[] {
  const length = periodOf(resolution);
  const periods: number[] = [];
  for (let start = Math.floor(from / length) * length; start < to; start += length) periods.push(start);
  return periods;
}

/** Splits points into those of each period. */
export function byPeriod(points: SummaryPoints, resolution: number): Map<number, SummaryPoints> {
  const length = periodOf(resolution);
  const split = new Map<number, SummaryPoints>();
  for (let index = 0; index < points.at.length;) {
    const start = Math.floor((points.at[index] as number) / length) * length;
    split.set(start, slicePoints(points, start, start + length));
    index = firstAtOrAfter(points.at, points.at.length, start + length);
  }
  return split;
}

/**
 * Reads and decodes chunks; those that are not there are left out.
 *
 * @throws RangeError naming the chunk when one does not decode
 */
export async function chunksOf(db: Queryable, keys: readonly ChunkKey[]): Promise<Chunk[]> {
  if (keys.length === 0) return [];
  const rows = await db.rows<ChunkKey & { bytes: Buffer }>(
    `select chunks.account_id as "accountId", chunks.series_id as "seriesId", chunks.resolution_ms as resolution, chunks.period_from as "periodFrom", bytes
     from unnest($1::integer[], $2::integer[], $3::integer[], $4::bigint[]) as wanted (account_id, series_id, resolution_ms, period_from)
     join chunks using (account_id, series_id, resolution_ms, period_from)`,
    [
      keys.map(({ accountId }) => accountId),
      keys.map(({ seriesId }) => seriesId),
      keys.map(({ resolution }) => resolution),
      keys.map(({ periodFrom }) => periodFrom)
    ]
  );
  return rows.map(({ bytes, ...key }) => ({ ...key, points: decoded(key, bytes) }));
}

function decoded(key: ChunkKey, bytes: Uint8Array): SummaryPoints {
  try {
    return decodeChunk(bytes);
  } catch (error) {
    if (!(error instanceof RangeError)) throw error;
    throw new RangeError(
      `chunksOf: the chunk of series ${key.seriesId}, resolution ${key.resolution} ms, period ${key.periodFrom} does not decode: ${error.message}`,
      { cause: error }
    );
  }
}

/** Writes chunks over what is there. Their bytes travel as one parameter, which is many times faster than as an array. */
export async function putChunks(db: Queryable, chunks: readonly Chunk[], at: Instant): Promise<void> {
  if (chunks.length === 0) return;
  const encoded = chunks.map(({ points }) => encodeChunk(points));
  let offset = 1;
  const offsets = encoded.map(({ byteLength }) => (offset += byteLength) - byteLength);
  await db.rows(
    `insert into chunks (account_id, series_id, resolution_ms, period_from, from_at, to_at, points, changed_at, bytes)
     select account_id, series_id, resolution_ms, period_from, from_at, to_at, points, $10, substring($11::bytea from start for length)
     from unnest($1::integer[], $2::integer[], $3::integer[], $4::bigint[], $5::bigint[], $6::bigint[], $7::integer[], $8::integer[], $9::integer[])
       as packed (account_id, series_id, resolution_ms, period_from, from_at, to_at, points, start, length)
     on conflict (account_id, series_id, resolution_ms, period_from) do update
     set from_at = excluded.from_at, to_at = excluded.to_at, points = excluded.points, changed_at = excluded.changed_at, bytes = excluded.bytes`,
    [
      chunks.map(({ accountId }) => accountId),
      chunks.map(({ seriesId }) => seriesId),
      chunks.map(({ resolution }) => resolution),
      chunks.map(({ periodFrom }) => periodFrom),
      chunks.map(({ points }) => points.at[0]),
      chunks.map(({ points }) => (points.at.at(-1) as number) + 1),
      chunks.map(({ points }) => points.at.length),
      offsets,
      encoded.map(({ byteLength }) => byteLength),
      at,
      Buffer.concat(encoded)
    ]
  );
}

/** How far the sealed samples of a series reach: starts of the oldest and the newest. */
export interface SeriesSpan {
  readonly accountId: number;
  readonly seriesId: number;
  readonly oldest: number;
  readonly newest: number;
}

export const allSpans = (db: Queryable): Promise<SeriesSpan[]> =>
  db.rows<SeriesSpan>(
    `select account_id as "accountId", series_id as "seriesId", oldest_at as oldest, newest_at as newest from series_spans`
  );

export async function widenSpans(db: Queryable, spans: readonly SeriesSpan[]): Promise<void> {
  await db.rows(
    `insert into series_spans (account_id, series_id, oldest_at, newest_at)
     select * from unnest($1::integer[], $2::integer[], $3::bigint[], $4::bigint[])
     on conflict (account_id, series_id) do update
     set oldest_at = least(series_spans.oldest_at, excluded.oldest_at), newest_at = greatest(series_spans.newest_at, excluded.newest_at)`,
    [
      spans.map(({ accountId }) => accountId),
      spans.map(({ seriesId }) => seriesId),
      spans.map(({ oldest }) => oldest),
      spans.map(({ newest }) => newest)
    ]
  );
}

/** Removes sealed journal rows, and says so for other processes. */
export async function noteSealed(db: Queryable, upTo: number, at: Instant): Promise<void> {
  await db.rows('delete from journal where id <= $1', [upTo]);
  await db.rows('update sealing set sealed_id = greatest(sealed_id, $1), sealed_at = $2', [upTo, at]);
}

export async function sealedUpTo(db: Queryable): Promise<number> {
  return oneRow(await db.rows<{ id: number }>('select sealed_id as id from sealing')).id;
}
