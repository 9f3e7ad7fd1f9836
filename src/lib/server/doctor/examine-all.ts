import type { Database } from '../db/pool';
import { examineLines } from '../logs/doctor';
import { examine } from '../store/doctor';
import { orphans } from './orphans';
import { unreadableStored } from './unreadable';

/** What a database holds, and what is wrong with it. */
export interface Examined {
  readonly chunks: number;
  readonly points: number;
  readonly batches: number;
  readonly segments: number;
  readonly lines: number;
  readonly waitingLines: number;
  /** Sentences for people; none where nothing is wrong. */
  readonly findings: readonly string[];
}

/**
 * Looks a whole database through: samples, lines, what is stored as JSON, and what belongs to nothing. Changes nothing.
 *
 * @example (await examineAll(db)).findings // []
 */
export async function examineAll(db: Database): Promise<Examined> {
  const { chunks, points, batches, findings: damaged } = await examine(db);
  const { segments, sealed, waiting, findings: ofLines } = await examineLines(db);
  const unreadable = await unreadableStored(db);
  return {
    ...{ chunks, points, batches, segments, lines: sealed, waitingLines: waiting },
    findings: [
      ...damaged.map(({ what }) => what),
      ...ofLines,
      ...unreadable.map(({ message }) => message),
      ...(await orphans(db))
    ]
  };
}

/** What there is, in words. @example sizeWords(examined) // ['21 chunks with 3,000 samples, 2 batches in the journal.', …] */
export const sizeWords = ({ chunks, points, batches, segments, lines, waitingLines }: Examined): string[] => [
  `${chunks.toLocaleString('en')} chunks with ${points.toLocaleString('en')} samples, ${batches.toLocaleString('en')} batches in the journal.`,
  `${segments.toLocaleString('en')} segments with ${lines.toLocaleString('en')} lines, ${waitingLines.toLocaleString('en')} lines in the journal.`
];
