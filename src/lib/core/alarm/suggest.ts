import { unit } from '../units';

/**
 * A first threshold for a series nobody has set one for: 80 % of the way up a bounded unit, else a fifth above the largest value seen, to two
 * significant digits. Without any value: 1.
 *
 * @param largest the largest value lately; NaN when there is none
 * @example suggestThreshold('By/s', 10_400_000) // 12000000
 */
export function suggestThreshold(code: string, largest: number): number {
  const bounds = unit(code).bounds;
  if (bounds) return bounds[0] + 0.8 * (bounds[1] - bounds[0]);
  return largest > 0 ? Number((largest * 1.2).toPrecision(2)) : 1;
}
