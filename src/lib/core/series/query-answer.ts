import type { Instant } from '../time';

/** One series of an answer, as `POST /api/v1/query` gives it. A gap is null. */
export interface AnswerSeries {
  readonly id: number;
  readonly account: string;
  readonly region: string;
  readonly resource: string;
  readonly resourceId: number;
  readonly newest: Instant | null;
  readonly values: readonly (number | null)[];
}

export interface QueryAnswer {
  readonly now: Instant;
  readonly start: Instant;
  readonly step: number;
  readonly count: number;
  readonly series: readonly AnswerSeries[];
}

/** The values of an answer as the core keeps them: gaps are NaN. @example valuesOf({ values: [1, null] }) // [1, NaN] */
export const valuesOf = ({ values }: Pick<AnswerSeries, 'values'>): Float64Array =>
  Float64Array.from(values, (value) => value ?? NaN);
