// chunks, bad_chunks, series_spans, journal, sealing: read only
import { decodeChunk } from '$lib/core/codec';
import { decodeBatch, rollUp, rollupSteps, slicePoints, type SummaryPoints } from '$lib/core/series';
import type { Database } from '../db/pool';
import { badChunks, periodOf, type ChunkKey } from './chunks';

/** Something that is wrong in a store. */
export interface Finding {
  readonly kind: 'chunk' | 'rollup' | 'span' | 'orphan' | 'journal';
  readonly what: string;
}

export interface Examination {
  readonly chunks: number;
  readonly points: number;
  readonly batches: number;
  readonly findings: readonly Finding[];
}

interface ChunkRow extends ChunkKey {
  readonly from: number;
  readonly to: number;
  readonly points: number;
  readonly bytes: Buffer;
}

/** Series looked at in one go. */
const seriesInOneGo = 100;
/** Findings reported at most. */
const mostFindings = 200;

/**
 * Looks a store through: every chunk decodes, lies within its period and is as long as its row says; every rollup is what its samples roll up to, as far as samples are
 * still kept; spans reach over their chunks; the journal's batches decode and lie behind what is sealed; nothing belongs to a series that is not there.
 *
 */
export async function examine(db: Database): Promise<Examination> {
  const findings: Finding[] = [];
  const tell = (kind: Finding['kind'], what: string) => {
    if (findings.length < mostFindings) findings.push({ kind, what });
  };
  let chunks = 0;
  let points = 0;
  const series = await db.rows<{ accountId: number; seriesId: number; oldest: number | null; newest: number | null }>(
    `select account_id as "accountId", series_id as "seriesId", oldest_at as oldest, newest_at as newest
     from (select distinct account_id, series_id from chunks) as chunked
     full join series_spans using (account_id, series_id)
     order by 1, 2`
  );
  for (let index = 0; index < series.length; index += seriesInOneGo) {
    const some = series.slice(index, index + seriesInOneGo);
    const rows = await db.rows<ChunkRow>(
      `select account_id as "accountId", series_id as "seriesId", resolution_ms as resolution, period_from as "periodFrom", from_at as "from", to_at as "to", points, bytes
       from chunks
       join unnest($1::integer[], $2::integer[]) as wanted (account_id, series_id) using (account_id, series_id)
       order by series_id, resolution_ms, period_from`,
      [some.map(({ accountId }) => accountId), some.map(({ seriesId }) => seriesId)]
    );
    chunks += rows.length;
    for (const one of some) {
      const own = rows.filter(({ seriesId }) => seriesId === one.seriesId);
      const decoded = own.map((row) => ({ row, points: decodedOrTold(row, tell) }));
      points += own.filter(({ resolution }) => resolution === 0).reduce((sum, row) => sum + row.points, 0);
      checkSpan(one, own, tell);
      checkRollups(decoded, tell);
    }
  }
  const batches = await checkJournal(db, tell);
  const orphans = await db.rows<{ seriesId: number }>(
    `select distinct chunks.series_id as "seriesId"
     from chunks
     left join series on series.account_id = chunks.account_id and series.id = chunks.series_id
     where series.id is null`
  );
  for (const bad of await badChunks(db))
    tell(
      'chunk',
      `The chunk of series ${bad.seriesId}, resolution ${bad.resolution} ms, period ${bad.periodFrom}, did not decode and was set aside with its ${bad.points} points: ${bad.reason}.`
    );
  for (const { seriesId } of orphans) tell('orphan', `Series ${seriesId} has chunks, but is not known.`);
  return { chunks, points, batches, findings };
}

type Tell = (kind: Finding['kind'], what: string) => void;

function decodedOrTold(row: ChunkRow, tell: Tell): SummaryPoints | null {
  const name = `The chunk of series ${row.seriesId}, resolution ${row.resolution} ms, period ${row.periodFrom}`;
  try {
    const points = decodeChunk(row.bytes);
    const { at } = points;
    if (at.length !== row.points) tell('chunk', `${name} holds ${at.length} points, its row says ${row.points}.`);
    if (at[0] !== row.from || (at.at(-1) as number) + 1 !== row.to)
      tell('chunk', `${name} reaches from ${at[0]} to ${at.at(-1)}, its row says otherwise.`);
    if (row.from < row.periodFrom || row.to > row.periodFrom + periodOf(row.resolution))
      tell('chunk', `${name} reaches beyond its period.`);
    return points;
  } catch (error) {
    if (!(error instanceof RangeError)) throw error;
    tell('chunk', `${name} does not decode: ${error.message}.`);
    return null;
  }
}

function checkSpan(
  { seriesId, oldest, newest }: { seriesId: number; oldest: number | null; newest: number | null },
  own: readonly ChunkRow[],
  tell: Tell
): void {
  const samples = own.filter(({ resolution }) => resolution === 0);
  if (oldest === null || newest === null) return tell('span', `Series ${seriesId} has chunks, but no span.`);
  const first = Math.min(Infinity, ...samples.map(({ from }) => from));
  const last = Math.max(-Infinity, ...samples.map(({ to }) => to - 1));
  if (first < oldest || last > newest) tell('span', `Series ${seriesId} has samples beyond its span.`);
}

function checkRollups(decoded: readonly { row: ChunkRow; points: SummaryPoints | null }[], tell: Tell): void {
  for (const { row, points } of decoded) {
    if (row.resolution !== 0 || points === null) continue;
    for (const step of rollupSteps) {
      const expected = rollUp(points, step);
      const from = row.periodFrom;
      const to = from + periodOf(0);
      const found = decoded.find(
        ({ row: one }) => one.resolution === step && one.periodFrom <= from && from < one.periodFrom + periodOf(step)
      )?.points;
      const problem = found ? differing(expected, slicePoints(found, from, to)) : 'is missing';
      if (problem !== null)
        tell('rollup', `The rollup to ${step} ms of series ${row.seriesId} on the day ${from} ${problem}.`);
    }
  }
}

function differing(expected: SummaryPoints, found: SummaryPoints): string | null {
  if (expected.at.length !== found.at.length) return `has ${found.at.length} cells, its samples ${expected.at.length}`;
  for (const name of ['at', 'sum', 'count', 'min', 'max'] as const)
    for (let i = 0; i < expected.at.length; i++)
      if (!Object.is(expected[name][i], found[name][i])) return `has another ${name} in the cell ${expected.at[i]}`;
  return null;
}

async function checkJournal(db: Database, tell: Tell): Promise<number> {
  const rows = await db.rows<{ id: number; points: number; batch: Buffer; sealedId: number }>(
    'select id, points, batch, (select sealed_id from sealing) as "sealedId" from journal order by id'
  );
  for (const { id, points, batch, sealedId } of rows) {
    if (id <= sealedId) tell('journal', `Batch ${id} should be sealed and gone.`);
    try {
      const count = decodeBatch(batch).reduce((sum, block) => sum + block.points.at.length, 0);
      if (count !== points) tell('journal', `Batch ${id} holds ${count} points, its row says ${points}.`);
    } catch (error) {
      if (!(error instanceof RangeError)) throw error;
      tell('journal', `Batch ${id} does not decode: ${error.message}.`);
    }
  }
  return rows.length;
}
