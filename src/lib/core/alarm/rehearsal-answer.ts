import type { Labels } from '../signal';
import type { Duration, Instant } from '../time';
import type { Season } from '../band';
import type { RehearsalFigures } from './figures';
import type { Proposal } from './propose';
import { severityBalls, type Severity } from './severity';

/** The gravest of the periods, of these the longest; undefined when there is none. */
export const worstRehearsed = ({ periods, to }: RehearsalAnswer): RehearsedPeriod | undefined => {
  const lengthOf = (period: RehearsedPeriod) => (period.to ?? to) - period.from;
  return periods.toSorted(
    (a, b) => severityBalls(b.severity) - severityBalls(a.severity) || lengthOf(b) - lengthOf(a)
  )[0];
};

/** One raised period of one of the series. */
export interface RehearsedPeriod {
  /** Position among the series. */
  readonly series: number;
  readonly from: Instant;
  readonly to: Instant | null;
  readonly severity: Severity;
  readonly steps: readonly { readonly at: Instant; readonly severity: Severity }[];
  readonly peak: number | null;
}

/** What the values of a rehearsal were like. */
export interface RehearsedValues {
  /** Null when there was none. */
  readonly smallest: number | null;
  readonly largest: number | null;
  /** Whether all of them are whole numbers. */
  readonly isWhole: boolean;
  /** The share of cells that had a value, from the first value of each series on: 0 to 1. Null when there was none. */
  readonly filled: number | null;
  /** The newest sample of all series; null when that is not known. */
  readonly newest: Instant | null;
  /** What the youngest of its anomaly bands learned from; null when no condition needs one. */
  readonly learned: { readonly days: number; readonly season: Season } | null;
}

/** What an alarm would have done. */
export interface RehearsalAnswer {
  readonly from: Instant;
  readonly to: Instant;
  readonly step: Duration;
  /** UCUM code of its numbers. */
  readonly unit: string;
  readonly series: readonly { readonly key: string; readonly labels: Labels }[];
  readonly seen: RehearsedValues;
  readonly windows: number;
  readonly milliseconds: number;
  readonly periods: readonly RehearsedPeriod[];
  readonly figures: RehearsalFigures;
  readonly proposals: readonly Proposal[];
}
