/** Types of metric families (OpenMetrics 1.0, section 5.1). */
export const familyTypes = [
  'gauge',
  'counter',
  'stateset',
  'info',
  'histogram',
  'gaugehistogram',
  'summary',
  'unknown'
] as const;
export type FamilyType = (typeof familyTypes)[number];

export interface MetricFamily {
  readonly name: string;
  type: FamilyType;
  unit: string;
  help: string;
}

/** What a line points to as one of the things it counted (OpenMetrics 1.0, section 4.6.1). */
export interface ExposedExemplar {
  readonly labels: Readonly<Record<string, string>>;
  readonly value: number;
  /** Milliseconds since the epoch; null when it has none. */
  readonly at: number | null;
}

/** One sample: a line of an exposition that is no comment. */
export interface ExposedSample {
  /** The whole name, such as `requests_total`. */
  readonly name: string;
  readonly family: MetricFamily;
  readonly labels: Readonly<Record<string, string>>;
  readonly value: number;
  /** Milliseconds since the epoch; null when the line has none. */
  readonly at: number | null;
  readonly exemplar: ExposedExemplar | null;
  /** Counted from 1. */
  readonly line: number;
}
