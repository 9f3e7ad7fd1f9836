import type { BandCells } from '../../band';
import type { Grid, Instant } from '../../time';

/** A bound for every cell: one number for all, or one a cell. No bound is an infinity; NaN is a bound that is not known. */
export type Bound = number | Float64Array;

/**
 * What a condition compares with what, for each cell of one series. Every kind of condition comes down to this: a threshold compares the value with a constant, a band
 * with its edges, a forecast the value expected later with a limit.
 */
export interface Comparison {
  /** What is compared, a value for each cell; NaN where that is not known. */
  readonly subject: ArrayLike<number>;
  readonly low: Bound;
  readonly high: Bound;
  /** The bounds within which a raised series may clear; they lie inside those above, or are the same. */
  readonly clearLow: Bound;
  readonly clearHigh: Bound;
  /** Whether a cell meets the condition outside of its bounds, or inside. */
  readonly meets: 'outside' | 'inside';
}

/** Columns on a grid of their own. */
export interface Cells {
  readonly grid: Grid;
  /** Values of each series; a gap is NaN. */
  readonly columns: readonly ArrayLike<number>[];
}

/** What conditions are judged on: all series of a signal at once, since some kinds compare them with each other. */
export interface ConditionData extends Cells {
  /** The time zone in which hours, weekdays and dates are meant. */
  readonly zone: string;
  /** The same series earlier, at the same step; needed by changes against a day or a week before. */
  readonly earlier?: Cells;
  /** The same series in longer cells; needed by forecasts. */
  readonly history?: Cells;
  /** Their anomaly bands on the grid; null for one that has none yet. */
  readonly bands?: readonly (BandCells | null)[];
  /** Start of the newest cell before the grid that had a value, for each series; null when none is known. Needed by absence. */
  readonly lastValueAt?: readonly (Instant | null)[];
  /** Of a combined alarm, whose columns hold how many of its parts hold for certain: how many may hold, and how many parts there are. */
  readonly mayHold?: readonly ArrayLike<number>[];
  readonly parts?: number;
}

/** What a cell says of a condition. */
export const cellCode = {
  /** Neither meets the condition nor is well enough to clear. */
  between: 0,
  met: 1,
  missing: 2,
  /** Well enough to clear. */
  well: 3
} as const;

/**
 * What cells [from, to) say of a comparison, as {@link cellCode}s. Above is strictly above, below strictly below; the inside of two bounds includes them.
 *
 * @example codesOf({ subject: [70, 75, 90, NaN], low: -Infinity, high: 80, clearLow: -Infinity, clearHigh: 70, meets: 'outside' }, 0, 4)
 * // [3, 0, 1, 2]: well, between, met, missing
 */
export function codesOf(comparison: Comparison, from: number, to: number): Uint8Array {
  const codes = new Uint8Array(Math.max(0, to - from));
  writeCodes(comparison, from, to, codes, 0);
  return codes;
}

/** Writes what cells [from, to) say, as {@link codesOf} gives it, from a place of a column on. */
export function writeCodes(comparison: Comparison, from: number, to: number, codes: Uint8Array, place: number): void {
  const { subject, low, high, clearLow, clearHigh, meets } = comparison;
  const shift = place - from;
  const inside = meets === 'inside';
  for (let i = from; i < to; i++) {
    const value = subject[i] as number;
    const least = typeof low === 'number' ? low : (low[i] as number);
    const most = typeof high === 'number' ? high : (high[i] as number);
    // Anything that is not known makes the sum NaN, as does an unbounded cell with infinities of both signs: these are asked for apart.
    if (value !== value || least !== least || most !== most) {
      codes[i + shift] = cellCode.missing;
      continue;
    }
    if (inside ? value >= least && value <= most : value < least || value > most) {
      codes[i + shift] = cellCode.met;
      continue;
    }
    const wellLow = typeof clearLow === 'number' ? clearLow : (clearLow[i] as number);
    const wellHigh = typeof clearHigh === 'number' ? clearHigh : (clearHigh[i] as number);
    const isWell = inside ? value < wellLow || value > wellHigh : value >= wellLow && value <= wellHigh;
    codes[i + shift] = isWell ? cellCode.well : cellCode.between;
  }
}

/**
 * How far a cell lies beyond its bounds in the condition's direction: above 0 when it meets it, and larger for worse. NaN where that is not known.
 *
 * @example beyondAt({ subject: [92], low: -Infinity, high: 80, clearLow: -Infinity, clearHigh: 80, meets: 'outside' }, 0) // 12
 */
export function beyondAt({ subject, low, high, meets }: Comparison, index: number): number {
  const value = subject[index] as number;
  const under = boundAt(low, index) - value;
  const over = value - boundAt(high, index);
  return meets === 'outside' ? Math.max(under, over) : Math.min(-under, -over);
}

/** The bound of a cell. @example boundAt(Float64Array.of(1, 2), 1) // 2 */
export const boundAt = (bound: Bound, index: number): number =>
  typeof bound === 'number' ? bound : (bound[index] as number);

/** A comparison whose bounds are also those for clearing. */
export const plainComparison = (
  subject: ArrayLike<number>,
  low: Bound,
  high: Bound,
  meets: Comparison['meets'] = 'outside'
): Comparison => ({ subject, low, high, clearLow: low, clearHigh: high, meets });
