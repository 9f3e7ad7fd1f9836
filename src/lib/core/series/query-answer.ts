import type { Calendar, Instant } from '../time';

/** One series of an answer, as `POST /api/v1/query` gives it. */
export interface AnswerSeries {
  /** The stored series; below zero, and the same for the same labels, for one computed from several. */
  readonly id: number;
  /** The stored series that it is, whatever rows are shown beside it; null for one computed from several. */
  readonly seriesId: number | null;
  /** The row of the signal. */
  readonly row: string;
  readonly name: string;
  readonly labels: Readonly<Record<string, string>>;
  readonly account: string;
  readonly region: string;
  readonly resource: string;
  /** 0 when it is not of one resource. */
  readonly resourceId: number;
  readonly newest: Instant | null;
  /** How many cells are complete: all series behind them are. Those after them are still being filled. */
  readonly complete: number;
  /** A gap is null in a list, NaN in a column. */
  readonly values: readonly (number | null)[] | Float64Array;
}

/** What working an answer out took. */
export interface AnswerEffort {
  readonly series: number;
  readonly points: number;
  /** ms; 0 are samples as they came. */
  readonly resolution: number;
  readonly milliseconds: number;
  /** Whether the browser worked it out of what it had. */
  readonly here?: boolean;
}

export interface QueryAnswer {
  readonly now: Instant;
  readonly start: Instant;
  readonly step: number;
  readonly count: number;
  /** Where each cell begins, for cells of days and weeks. */
  readonly calendar?: Calendar;
  /** How many cells are complete in the series that is furthest; those after them are still being filled in all. */
  readonly complete: number;
  /** How many of the stored series behind the answer are not that far yet; null when all are. */
  readonly partial: { readonly missing: number; readonly of: number } | null;
  readonly rows: readonly { readonly name: string; readonly unit: string }[];
  readonly series: readonly AnswerSeries[];
  readonly notes: readonly { readonly row: string; readonly text: string }[];
  readonly effort: AnswerEffort;
}

/**
 * How many of the series behind a value of several have not come so far yet; null when all have, and where each value is of one series, which is merely as new as it is.
 *
 * @example waitedFor(answer) // { missing: 2, of: 9 }
 */
export const waitedFor = ({ partial, series }: Pick<QueryAnswer, 'partial' | 'series'>): QueryAnswer['partial'] =>
  series.some(({ seriesId }) => seriesId === null) ? partial : null;

/** The values of an answer as the core keeps them: gaps are NaN. @example valuesOf({ values: [1, null] }) // [1, NaN] */
export function valuesOf({ values }: Pick<AnswerSeries, 'values'>): Float64Array {
  if (values instanceof Float64Array) return values;
  const column = new Float64Array(values.length);
  for (let cell = 0; cell < values.length; cell++) column[cell] = values[cell] ?? NaN; // a board has hundreds of thousands
  return column;
}

/** Whether a series misses values before a cell. @example hasGaps({ values: [1, null, 3] }, 3) // true */
export const hasGaps = (series: Pick<AnswerSeries, 'values'>, end: number): boolean =>
  valuesOf(series).subarray(0, Math.max(0, end)).some(Number.isNaN);

/** An answer whose values are packed: base64 of IEEE 754 doubles, the lowest byte first. Boards request it, since hundreds of thousands of values are read as text for longer than they are drawn. */
export type PackedAnswer = Omit<QueryAnswer, 'series'> & {
  readonly series: readonly (Omit<AnswerSeries, 'values'> & { readonly values: string })[];
};

/** @example unpacked(answer).series[0].values // Float64Array [ 1, NaN ], of 'AAAAAAAA8D8AAAAAAAD4fw==' */
export const unpacked = (answer: PackedAnswer): QueryAnswer => ({
  ...answer,
  series: answer.series.map((series) => ({ ...series, values: columnFrom(series.values) }))
});

function columnFrom(base64: string): Float64Array {
  const text = atob(base64);
  const bytes = new Uint8Array(text.length);
  for (let i = 0; i < text.length; i++) bytes[i] = text.charCodeAt(i);
  return new Float64Array(bytes.buffer); // of a machine that has the lowest byte first, as all browsers' have
}
