// log_streams, log_journal, log_segments: read only
import { decodeBatch, headPart, readHead, readLines, type SegmentSummary } from '$lib/core/logs';
import type { Queryable } from '../db/pool';
import { isDamage, partsOf, segmentsAfter, summariesOf, type SegmentEntry } from './segments';

/** What stored lines came to, and what is wrong with them. */
export interface LogExamination {
  readonly segments: number;
  readonly sealed: number;
  readonly waiting: number;
  readonly findings: readonly string[];
}

/** Findings reported at most. */
const mostFindings = 200;

/**
 * Looks stored lines through: every segment is read whole, has as many lines as its row says, in order and within its times; every batch of the journal is read, and lies behind what is sealed.
 *
 * @example (await examineLines(db)).findings // []
 */
export async function examineLines(db: Queryable): Promise<LogExamination> {
  const findings: string[] = [];
  const find = (what: string): void => {
    if (findings.length < mostFindings) findings.push(what);
  };
  const segments = await segmentsAfter(db, 0);
  let sealed = 0;
  for (const segment of segments) {
    sealed += segment.lines;
    const why = await whatIsWrong(db, segment);
    if (why !== null) find(`Segment ${segment.id} of stream ${segment.streamId} ${why}.`);
  }
  let waiting = 0;
  const batches = await db.rows<{ id: number; streamId: number; lines: number }>(
    'select id, stream_id as "streamId", lines from log_journal order by id'
  );
  for (const { id, lines } of batches) {
    const [row] = await db.rows<{ batch: Buffer; sealedId: number }>(
      `select batch, sealed_id as "sealedId"
       from log_journal
       join log_streams on log_streams.id = stream_id
       where log_journal.id = $1`,
      [id]
    );
    if (row === undefined) continue; // sealed meanwhile
    waiting += lines;
    try {
      const read = decodeBatch(row.batch, null).length;
      if (row.sealedId >= id) find(`Batch ${id} of lines is in the journal, although it is sealed.`);
      if (read !== lines) find(`Batch ${id} holds ${read} lines, its row says ${lines}.`);
    } catch (error) {
      if (!isDamage(error)) throw error;
      find(`Batch ${id} of lines cannot be read: ${error.message}.`);
    }
  }
  return { segments: segments.length, sealed, waiting, findings };
}

/** @returns null when nothing is */
async function whatIsWrong(db: Queryable, segment: SegmentEntry): Promise<string | null> {
  try {
    const summary = (await summariesOf(db, [segment.id], throwing)).get(segment.id);
    if (summary === undefined) return null; // removed meanwhile
    const all = segment.ends.map((_, part) => ({ segment, part }));
    const parts = (await partsOf(db, all, throwing)).get(segment.id);
    return parts === undefined ? null : differenceOf(segment, summary, parts);
  } catch (error) {
    if (!isDamage(error)) throw error;
    return `cannot be read: ${error.message}`;
  }
}

function differenceOf(
  segment: SegmentEntry,
  summary: SegmentSummary,
  parts: ReadonlyMap<number, Uint8Array>
): string | null {
  const head = readHead(parts.get(headPart) ?? new Uint8Array(0), summary.lines);
  const lines = readLines(
    summary,
    head,
    parts,
    Array.from({ length: summary.lines }, (_, line) => line)
  );
  if (lines.length !== segment.lines) return `holds ${lines.length} lines, its row says ${segment.lines}`;
  if (lines[0]?.at !== segment.from || lines.at(-1)?.at !== segment.to)
    return 'reaches over other times than its row says';
  for (let index = 1; index < lines.length; index++)
    if ((lines[index - 1]?.at ?? 0) > (lines[index]?.at ?? 0)) return 'has lines out of order';
  return null;
}

const throwing = (_id: number, error: Error): never => {
  throw error;
};
