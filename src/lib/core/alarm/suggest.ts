import { unit } from '../units';
import type { Condition } from './schema';

/**
 * A first condition for what nobody has set one for: above 80 % of the way up a bounded unit, or below its highest hundredth for what always stays within that, as an
 * availability does; else above a fifth more than the largest value seen, to two significant digits. Without any value: above 1.
 *
 * @param smallest the smallest value lately, `largest` the largest; NaN when there is none
 * @example suggestCondition('By/s', 0, 10_400_000) // { is: 'above', threshold: 12000000 }
 */
export function suggestCondition(code: string, smallest: number, largest: number): Condition {
  const { bounds } = unit(code);
  if (bounds) {
    const [low, high] = bounds;
    const nearTop = high - (high - low) / 100;
    return smallest >= nearTop
      ? { is: 'below', threshold: nearTop }
      : { is: 'above', threshold: low + 0.8 * (high - low) };
  }
  return { is: 'above', threshold: largest > 0 ? Number((largest * 1.2).toPrecision(2)) : 1 };
}
