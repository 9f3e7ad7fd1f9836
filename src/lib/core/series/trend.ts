/** A straight line through points that a few of them cannot bend, with the interval in which its slope lies. */
export interface Trend {
  /** The value at time 0. */
  readonly level: number;
  readonly slope: number;
  /** The slope lies between these with the stated confidence. */
  readonly least: number;
  readonly most: number;
}

/** Of the normal distribution, for 90 % between both ends. */
const confidence = 1.645;

/**
 * The trend of Theil and Sen: the median of the slopes between all pairs of points; its interval from the distribution of Kendall's statistic (Sen 1968; Gilbert 1987, section 16.5). The level is the median of
 * what the line leaves over. Cost: pairs of points.
 *
 * @param at times of the points, none twice
 * @returns null with fewer than 4 points
 * @example trendOf([0, 1, 2, 3], [1, 3, 5, 7]) // { level: 1, slope: 2, least: 2, most: 2 }
 */
export function trendOf(at: ArrayLike<number>, values: ArrayLike<number>): Trend | null {
  const n = at.length;
  if (n < 4) return null;
  const slopes = new Float64Array((n * (n - 1)) / 2);
  let count = 0;
  for (let i = 0; i < n; i++)
    for (let j = i + 1; j < n; j++)
      slopes[count++] = ((values[j] as number) - (values[i] as number)) / ((at[j] as number) - (at[i] as number));
  slopes.sort();
  const half = (confidence * Math.sqrt((n * (n - 1) * (2 * n + 5)) / 18)) / 2;
  const slope = middleOf(slopes);
  const left = Float64Array.from({ length: n }, (_, i) => (values[i] as number) - slope * (at[i] as number)).sort();
  const between = (place: number) => slopes[Math.max(0, Math.min(count - 1, Math.round(place)))] as number;
  return { level: middleOf(left), slope, least: between(count / 2 - half - 1), most: between(count / 2 + half) };
}

function middleOf(sorted: Float64Array): number {
  const middle = sorted.length >> 1;
  return sorted.length % 2 === 1
    ? (sorted[middle] as number)
    : ((sorted[middle - 1] as number) + (sorted[middle] as number)) / 2;
}
