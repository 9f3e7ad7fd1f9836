// chunks, bad_chunks, series_spans, sealing
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

/** Reads and decodes chunks; those that are not there are left out. One that does not decode is set aside: it stops nothing but itself. */
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
  const chunks: Chunk[] = [];
  for (const { bytes, ...key } of rows) {
    const points = decoded(bytes);
    if (typeof points === 'string') await setAside(db, key, points);
    else chunks.push({ ...key, points });
  }
  return chunks;
}

/** @returns the points, or why they cannot be read */
function decoded(bytes: Uint8Array): SummaryPoints | string {
  try {
    return decodeChunk(bytes);
  } catch (error) {
    if (!(error instanceof RangeError)) throw error;
    return error.message;
  }
}

/** Moves a chunk to those that do not decode, for people to look into. */
async function setAside(db: Queryable, key: ChunkKey, reason: string): Promise<void> {
  await db.rows(
    `with gone as (
       delete from chunks
       where account_id = $1 and series_id = $2 and resolution_ms = $3 and period_from = $4
       returning account_id, series_id, resolution_ms, period_from, points, bytes
     )
     insert into bad_chunks (account_id, series_id, resolution_ms, period_from, points, reason, bytes)
     select account_id, series_id, resolution_ms, period_from, points, $5, bytes
     from gone
     on conflict (account_id, series_id, resolution_ms, period_from) do update
     set points = excluded.points, reason = excluded.reason, bytes = excluded.bytes, found_at = now()`,
    [key.accountId, key.seriesId, key.resolution, key.periodFrom, reason.slice(0, 300)]
  );
}

/** A chunk that did not decode. */
export interface BadChunk extends ChunkKey {
  readonly account: string;
  readonly metric: string;
  readonly points: number;
  readonly reason: string;
}

/** Chunks that were set aside, newest first. */
export const badChunks = (db: Queryable, most = 100): Promise<BadChunk[]> =>
  db.rows<BadChunk>(
    `select bad_chunks.account_id as "accountId", series_id as "seriesId", resolution_ms as resolution, period_from as "periodFrom",
       coalesce(accounts.name, '') as account, coalesce(series.metric, '') as metric, points, reason
     from bad_chunks
     left join accounts on accounts.id = bad_chunks.account_id
     left join series on series.account_id = bad_chunks.account_id and series.id = series_id
     order by found_at desc
     limit $1`,
    [most]
  );

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
