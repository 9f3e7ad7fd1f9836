import type { Grid } from '../../time';
import type { Labels } from '../conditions';

/** One series of a row: who it is and a value for each cell; a gap is NaN. */
export interface Column {
  readonly labels: Labels;
  readonly values: Float64Array;
  /** Start of the newest sample behind it, ms since the epoch; null when there is none. */
  readonly newest: number | null;
  /** Cells that end by here are complete: every series behind it is, ms since the epoch. */
  readonly completeUntil: number;
  /** The stored series that this is, unchanged or by itself; null for what several made. */
  readonly seriesId: number | null;
}

/** The result of a row: columns on one grid, in one unit. */
export interface Table {
  readonly columns: readonly Column[];
  /** UCUM code. */
  readonly unit: string;
  /** Whether it is the quotient of two things of one unit: times 100 it is a percentage. */
  readonly isRatio: boolean;
}

/** A column of a constant. @example constant(3, { start: 0, step: 60_000, count: 2 }).values // [3, 3] */
export const constant = (value: number, { count }: Grid): Column => ({
  labels: {},
  values: new Float64Array(count).fill(value),
  newest: null,
  completeUntil: Infinity,
  seriesId: null
});

/** Text that is equal for equal labels, whatever their order. @example labelKey({ b: '2', a: '1' }) // '[["a","1"],["b","2"]]' */
export const labelKey = (labels: Labels): string =>
  JSON.stringify(Object.entries(labels).sort(([one], [other]) => (one < other ? -1 : 1)));

/**
 * Labels that two columns have both, so that nobody can tell them apart: as of two metrics of one resource that a pattern picked. Null when there are none.
 *
 * @example sharedLabels([{ labels: { region: 'p' } }, { labels: { region: 'p' } }]) // { region: 'p' }
 */
export function sharedLabels(columns: readonly Pick<Column, 'labels'>[]): Labels | null {
  const seen = new Set<string>();
  for (const { labels } of columns) {
    const key = labelKey(labels);
    if (seen.has(key)) return labels;
    seen.add(key);
  }
  return null;
}

/** What is known of the arrival of a column. */
export type Arrived = Pick<Column, 'newest' | 'completeUntil'>;

/** What is known of a column made of several: the newest sample of any; complete as far as all are. */
export function arrivedTogether(all: readonly Arrived[]): Arrived {
  let newest: number | null = null;
  let completeUntil = Infinity;
  for (const one of all) {
    if (one.newest !== null && (newest === null || one.newest > newest)) newest = one.newest;
    if (one.completeUntil < completeUntil) completeUntil = one.completeUntil;
  }
  return { newest, completeUntil };
}

/** Something that people should know of how a row was computed. */
export interface Note {
  readonly row: string;
  readonly text: string;
}
