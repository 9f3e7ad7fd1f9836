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
  readonly kind: 'known';
  /** The middle of its past, and of then. */
  readonly usual: number;
  readonly value: number;
  /** How many times its usual spread it was away, with the sign of the direction. */
  readonly distance: number;
}

/** Cells of the past that are needed to say anything. */
const fewestPast = 24;
/** The median of absolute deviations times this is a standard deviation, where values are spread normally. */
const normalScale = 1.4826;
/** Whatever hardly ever moves is not unusual for moving by less than this part of its usual size. */
const leastSpread = 0.1;
/** Beyond so many spreads, farther away is not more unusual: a metric that never moved would outrank all others. */
export const farthest = 1000;

/** What comparing a metric with its own past gives: `silent` is one that was measured in the past and was not then, `young` one with too little past. */
export type Compared = Unusual | { readonly kind: 'silent'; readonly usual: number } | { readonly kind: 'young' };

/**
 * How far a metric was from its usual: the distance of the medians in robust standard deviations (scaled median absolute deviation) of its past. A spread below a tenth of the usual size counts as that, so that
 * a metric which never moves is not infinitely unusual.
 *
 * @example compareWithPast({ past: Array(24).fill(10), then: [12] }) // { kind: 'known', usual: 10, value: 12, distance: 2 }
 */
export function compareWithPast({ past, then }: Course): Compared {
  const [before, during] = [sortedKnown(past), sortedKnown(then)];
  if (before.length < fewestPast || then.length === 0) return { kind: 'young' };
  const usual = medianSorted(before);
  if (during.length === 0) return { kind: 'silent', usual };
  const value = medianSorted(during);
  const spread = Math.max(normalScale * medianAbsoluteDeviation(before), leastSpread * Math.abs(usual));
  // What was always zero has no size to compare with: that it moved at all is as unusual as can be.
  const distance = spread === 0 ? farthest * Math.sign(value - usual) : (value - usual) / spread;
  return { kind: 'known', usual, value, distance: Math.max(-farthest, Math.min(farthest, distance)) };
}

/**
 * How a value compares with the usual, in words.
 *
 * @example unusualText({ usual: 10, value: 120, distance: 40 }) // '12 × usual'
 */
export function unusualText({ usual, value, distance }: Pick<Unusual, 'usual' | 'value' | 'distance'>): string {
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

/** A metric near an incident that was not as usual. */
export interface UnusualMetric {
  readonly metric: string;
  readonly title: string;
  /** UCUM code. */
  readonly unit: string;
  readonly resource: string;
  readonly resourceId: number;
  /** How far from usual, in words, such as `12 × usual`. */
  readonly text: string;
  /** In robust standard deviations of the same hours of the days before. */
  readonly distance: number;
  readonly usual: number;
  /** Null of what was not measured then. */
  readonly value: number | null;
  /** From two hours before it was raised, in cells of five minutes; null where nothing was measured. */
  readonly values: readonly (number | null)[];
}

/** What was unusual near an incident, of how many metrics that could be compared. */
export interface UnusualThen {
  readonly unusual: readonly UnusualMetric[];
  readonly compared: number;
  /** How many have too little history to be compared. */
  readonly tooYoung: number;
}
