import {
  decodeBatch,
  GrowingPoints,
  joinPoints,
  rollUp,
  rollupSteps,
  slicePoints,
  type SummaryPoints
} from '$lib/core/series';
import type { Instant } from '$lib/core/time';
import type { Database } from '../db/pool';
import { confirmDuty, type Held } from '../duties/duties';
import { byPeriod, chunksOf, noteSealed, periodOf, putChunks, widenSpans, type Chunk, type ChunkKey } from './chunks';
import { journalBetween, type JournalEntry } from './journal';

/** Points that are worked on at a time: about 8 MB. */
const helping = 200_000;
/** Series in one transaction: short, since connections of the embedded database take turns. */
const seriesInOneGo = 40;

/** What sealing leaves in the journal. */
export interface SealLimits {
  /** Batches received before this are sealed. */
  readonly receivedBefore: Instant;
  /** However young they are, not more points than this stay. */
  readonly mostPoints: number;
}

/**
 * How much of the journal is to be sealed: a number of its oldest batches, since the newest write of an instant wins and sealing must keep the order.
 *
 * @param entries in the journal's order
 * @example dueForSealing(entries, { receivedBefore, mostPoints: 400_000 }).length // 3: the first three
 */
export function dueForSealing(entries: readonly JournalEntry[], limits: SealLimits): JournalEntry[] {
  let left = entries.reduce((sum, { points }) => sum + points, 0);
  let count = 0;
  for (const { points, receivedAt } of entries) {
    if (receivedAt >= limits.receivedBefore && left <= limits.mostPoints) break;
    left -= points;
    count++;
  }
  return entries.slice(0, count);
}

/**
 * Moves batches of the journal into chunks and rollups. Each transaction writes the chunks of some series with their rollups; only when all are written are the
 * batches removed. Killed in between, the journal still holds every batch: sealing them again writes the same, so nothing is lost or doubled.
 *
 * @param entries the journal's oldest batches, in its order
 * @param onChunk called for each chunk that was written
 * @param held the duty under which it is sealed: once another process has taken that over, nothing more is written
 * @returns the id up to which the journal is sealed now; null when there was nothing to do
 */
export async function seal(
  db: Database,
  entries: readonly JournalEntry[],
  now: Instant,
  onChunk: (key: ChunkKey) => void,
  held: Held | null = null
): Promise<number | null> {
  let sealed: number | null = null;
  for (let first = 0; first < entries.length;) {
    let end = first;
    for (let points = 0; end < entries.length && (end === first || points < helping); end++)
      points += (entries[end] as JournalEntry).points;
    sealed = (entries[end - 1] as JournalEntry).id;
    await sealSome(db, (entries[first] as JournalEntry).id, sealed, now, onChunk, held);
    first = end;
  }
  return sealed;
}

interface Fresh {
  readonly accountId: number;
  readonly seriesId: number;
  readonly points: SummaryPoints;
}

async function sealSome(
  db: Database,
  firstId: number,
  lastId: number,
  now: Instant,
  onChunk: (key: ChunkKey) => void,
  held: Held | null
): Promise<void> {
  const fresh = gathered(await journalBetween(db, firstId, lastId));
  for (let index = 0; index < fresh.length; index += seriesInOneGo) {
    const some = fresh.slice(index, index + seriesInOneGo);
    const chunks = await mergedChunks(db, some);
    await db.transaction(async (within) => {
      await confirmDuty(within, held);
      await putChunks(within, chunks, now);
      await widenSpans(
        within,
        some.map(({ accountId, seriesId, points: { at } }) => ({
          accountId,
          seriesId,
          oldest: at[0] as number,
          newest: at.at(-1) as number
        }))
      );
    });
    chunks.forEach(onChunk);
  }
  await db.transaction(async (within) => {
    await confirmDuty(within, held);
    await noteSealed(within, lastId, now);
  });
}

/** The points of each series of some batches; of equal instants the newest write stays. */
function gathered(rows: Awaited<ReturnType<typeof journalBetween>>): Fresh[] {
  const series = new Map<number, { accountId: number; points: GrowingPoints }>();
  for (const { account_id: accountId, batch } of rows)
    for (const { seriesId, points } of decodeBatch(batch)) {
      let gathered = series.get(seriesId);
      if (!gathered) series.set(seriesId, (gathered = { accountId, points: new GrowingPoints() }));
      gathered.points.write(points);
    }
  return [...series]
    .map(([seriesId, { accountId, points }]) => ({ accountId, seriesId, points: points.used() }))
    .filter(({ points }) => points.at.length > 0);
}

/** The chunks that fresh points touch, as they will be: samples first, then the rollups of the cells that changed. */
async function mergedChunks(db: Database, fresh: readonly Fresh[]): Promise<Chunk[]> {
  const touched = fresh.flatMap(({ accountId, seriesId, points }) =>
    [...byPeriod(points, 0)].map(([periodFrom, added]) => ({ accountId, seriesId, resolution: 0, periodFrom, added }))
  );
  const old = await existing(db, touched);
  const samples = touched.map(({ added, ...key }) => ({
    ...key,
    added,
    points: overlaid(old.get(nameOf(key)), added)
  }));
  const cells = new Map<string, ChunkKey & { added: SummaryPoints[] }>();
  for (const { accountId, seriesId, points, added } of samples)
    for (const step of rollupSteps) {
      const from = Math.floor((added.at[0] as number) / step) * step;
      const to = (Math.floor((added.at.at(-1) as number) / step) + 1) * step;
      const rolled = rollUp(slicePoints(points, from, to), step);
      const periodFrom = Math.floor(from / periodOf(step)) * periodOf(step);
      const key = { accountId, seriesId, resolution: step, periodFrom };
      const gathered = cells.get(nameOf(key)) ?? { ...key, added: [] };
      gathered.added.push(rolled);
      cells.set(nameOf(key), gathered);
    }
  const rollups = [...cells.values()];
  const oldRollups = await existing(db, rollups);
  return [
    ...samples.map(({ accountId, seriesId, resolution, periodFrom, points }) => ({
      accountId,
      seriesId,
      resolution,
      periodFrom,
      points
    })),
    ...rollups.map(({ added, ...key }) => ({
      ...key,
      points: overlaid(oldRollups.get(nameOf(key)), joinPoints(added))
    }))
  ];
}

async function existing(db: Database, keys: readonly ChunkKey[]): Promise<Map<string, SummaryPoints>> {
  return new Map((await chunksOf(db, keys)).map(({ points, ...key }) => [nameOf(key), points]));
}

/** Newer points over older ones. */
function overlaid(older: SummaryPoints | undefined, newer: SummaryPoints): SummaryPoints {
  if (!older || older.at.length === 0) return newer;
  const merged = new GrowingPoints(older.at.length + newer.at.length);
  merged.write(older);
  merged.write(newer);
  return merged.used();
}

const nameOf = ({ seriesId, resolution, periodFrom }: ChunkKey): string => `${seriesId}/${resolution}/${periodFrom}`;
