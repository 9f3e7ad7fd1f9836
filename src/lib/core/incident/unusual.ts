import { medianAbsoluteDeviation, medianSorted } from 'simple-statistics';

/** A metric around the time of an incident, beside its own past. */
export interface Course {
  /** Values of cells before, in order; NaN where there is none. */
  readonly past: ArrayLike<number>;
  /** Values while the incident began. */
  readonly then: ArrayLike<number>;
}

/** How far a metric was from its usual. */
export interface Unusual {
  /** The middle of its past, and of then. */
  readonly usual: number;
  readonly value: number;
  /** How many times its usual spread it was away, with the sign of the direction. */
  readonly distance: number;
}

/** Cells of the past and of then that are needed to say anything. */
const [fewestPast, fewestThen] = [24, 1];
/** The median of absolute deviations times this is a standard deviation, where values are spread normally. */
const normalScale = 1.4826;
/** Whatever hardly ever moves is not unusual for moving by less than this part of its usual size. */
const leastSpread = 0.1;
/** Beyond so many spreads, farther away is not more unusual: a metric that never moved would outrank all others. */
const farthest = 1000;

/**
 * How far a metric was from its usual: the distance of the medians in robust standard deviations (scaled median absolute deviation) of its past. A spread below a tenth of the usual size counts as that, so that
 * a metric which never moves is not infinitely unusual.
 *
 * @returns null when there is too little to tell, or nothing to be told from
 * @example unusualOf({ past: Array(24).fill(10), then: [12] }) // { usual: 10, value: 12, distance: 2 }
 */
export function unusualOf({ past, then }: Course): Unusual | null {
  const [before, during] = [sortedKnown(past), sortedKnown(then)];
  if (before.length < fewestPast || during.length < fewestThen) return null;
  const [usual, value] = [medianSorted(before), medianSorted(during)];
  const size = Math.max(Math.abs(usual), Math.abs(value));
  const spread = Math.max(normalScale * medianAbsoluteDeviation(before), leastSpread * Math.abs(usual));
  if (size === 0) return { usual, value, distance: 0 };
  // What was always zero has no size to compare with: that it moved at all is as unusual as can be.
  const distance = spread === 0 ? farthest * Math.sign(value - usual) : (value - usual) / spread;
  return { usual, value, distance: Math.max(-farthest, Math.min(farthest, distance)) };
}

/**
 * How a value compares with the usual, in words.
 *
 * @example unusualText({ usual: 10, value: 120, distance: 40 }) // '12 × usual'
 */
export function unusualText({ usual, value, distance }: Unusual): string {
  if (usual === 0) return value === 0 ? 'as usual' : 'usually 0';
  const ratio = value / usual;
  if (value === 0) return 'none, usually some';
  if (ratio >= 1.5) return `${ratio < 10 ? Number(ratio.toFixed(1)) : Math.round(ratio)} × usual`;
  if (ratio > 0 && ratio <= 0.67) return fractionText(ratio);
  return distance > 0 ? 'above usual' : 'below usual';
}

const fractions = [
  'a half',
  'a third',
  'a quarter',
  'a fifth',
  'a sixth',
  'a seventh',
  'an eighth',
  'a ninth',
  'a tenth'
];
function fractionText(ratio: number): string {
  const parts = Math.round(1 / ratio);
  return parts > 10 ? `1 ∕ ${parts} of usual` : `${fractions[Math.max(0, parts - 2)]} of usual`;
}

const sortedKnown = (values: ArrayLike<number>): number[] =>
  Array.from(values)
    .filter((value) => Number.isFinite(value))
    .sort((a, b) => a - b);
