import { z } from 'zod';
import type { Comparison } from './comparison';
import type { ConditionKind } from './kind';

/**
 * Unlike its peers now: farther from their median than so many robust deviations (1.4826 times the median absolute deviation, which is the standard deviation of what is distributed normally;
 * Rousseeuw and Croux 1993). The deviation counts as at least a hundredth of the median, so that peers which agree exactly do not condemn one that differs by nothing worth naming.
 *
 * @example rankSchema.parse({ kind: 'rank', is: 'above', by: 6 })
 */
export const rankSchema = z.strictObject({
  kind: z.literal('rank'),
  is: z.enum(['above', 'below', 'outside']),
  /** Robust deviations from the median. */
  by: z.number({ error: 'The distance must be a number.' }).min(1).max(100),
  /** It must differ from the median by at least this, in the unit of the signal. */
  atLeast: z.number().min(0).optional()
});
export type Rank = z.infer<typeof rankSchema>;

/** Fewer series with a value than this have no peers to speak of. */
export const leastPeers = 4;
const normalScale = 1.4826;
const leastDeviation = 0.01;

export const rankKind: ConditionKind<Rank> = {
  needs: () => ({ lead: 0, peers: true }),
  compare: ({ is, by, atLeast = 0 }, { grid, columns }) => {
    const low = new Float64Array(grid.count).fill(is === 'above' ? -Infinity : NaN);
    const high = new Float64Array(grid.count).fill(is === 'below' ? Infinity : NaN);
    const present = new Float64Array(columns.length);
    const distances = new Float64Array(columns.length);
    for (let i = 0; i < grid.count; i++) {
      let count = 0;
      for (const values of columns) {
        const value = values[i] as number;
        if (value === value) present[count++] = value;
      }
      if (count < leastPeers) continue;
      const middle = medianOf(present.subarray(0, count));
      for (let j = 0; j < count; j++) distances[j] = Math.abs((present[j] as number) - middle);
      const spread = normalScale * medianOf(distances.subarray(0, count));
      const reach = Math.max(atLeast, by * Math.max(spread, leastDeviation * Math.abs(middle)));
      if (is !== 'above') low[i] = middle - reach;
      if (is !== 'below') high[i] = middle + reach;
    }
    return columns.map((subject): Comparison => ({
      subject,
      low,
      high,
      clearLow: low,
      clearHigh: high,
      meets: 'outside'
    }));
  },
  sentence: ({ is, by, atLeast }, { limit }) => {
    const where = { above: 'above', below: 'below', outside: 'away from' }[is];
    const least = atLeast ? `, and ${limit(atLeast)} or more` : '';
    return `is more than ${by} robust deviations ${where} the median of its peers${least}`;
  }
};

/** The median of some numbers, whose order it changes. */
function medianOf(numbers: Float64Array): number {
  numbers.sort();
  const middle = numbers.length >> 1;
  return numbers.length % 2 === 1
    ? (numbers[middle] as number)
    : ((numbers[middle - 1] as number) + (numbers[middle] as number)) / 2;
}
