import type { Severity } from '../severity';
import type { Duration } from '../../time';
import type { Comparison, ConditionData } from './comparison';

/** What a condition must be given besides the cells that are judged. */
export interface Needs {
  /** Cells before the first that is judged. */
  readonly lead: number;
  /** Cells more for a series of which nothing is remembered. */
  readonly begin?: number;
  /** The same series this much earlier, give or take an hour where clocks are changed, with as many cells of lead. */
  readonly earlier?: Duration;
  /** The same series in cells of `step`, for `length` before the first cell that is judged. */
  readonly history?: { readonly step: Duration; readonly length: Duration };
  /** Their anomaly bands. */
  readonly bands?: true;
  /** All series of the signal, complete, not those alone that have new cells. */
  readonly peers?: true;
}

/** How a kind of condition is written in sentences: what numbers are in the unit of the signal. */
export interface ConditionWords {
  /** A number in the unit of the signal. @example limit(80) // '80 %' */
  readonly limit: (value: number) => string;
}

/** One kind of condition. */
export interface ConditionKind<Condition> {
  readonly needs: (condition: Condition, step: Duration) => Needs;
  /** What is compared with what, for each series of the data, over all its cells. */
  readonly compare: (condition: Condition, data: ConditionData) => Comparison[];
  /** What follows "when processor use of each machine". @example 'is above 80 %' */
  readonly sentence: (condition: Condition, words: ConditionWords) => string;
}

/** One severity of an alarm with its condition. */
export interface LevelOf<Condition> {
  readonly severity: Severity;
  readonly condition: Condition;
}
