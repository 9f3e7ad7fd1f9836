import { unit } from '../units';
import type { Threshold } from './condition';

/** What a signal came to lately: its smallest and largest value, NaN when it had none. */
export interface Seen {
  readonly smallest: number;
  readonly largest: number;
  /** Whether all of its values are whole numbers. */
  readonly isWhole: boolean;
}

/**
 * A first condition for what nobody has set one for: above 80 % of the way up a bounded unit, or below its highest hundredth for what always stays within that, as an
 * availability does. A plain number that is never below 0 nor above 1 is taken for a share, or for a yes or no: what it mostly is not raises it. Else above a fifth more than the largest value seen, to two
 * significant digits. Without any value: above 1.
 *
 * @example suggestCondition('By/s', { smallest: 0, largest: 10_400_000, isWhole: true }) // { kind: 'threshold', is: 'above', limit: 12000000 }
 * @example suggestCondition('1', { smallest: 1, largest: 1, isWhole: true }) // { kind: 'threshold', is: 'below', limit: 1 }
 */
export function suggestCondition(
  code: string,
  { smallest, largest, isWhole }: Seen
): Extract<Threshold, { is: 'above' | 'below' }> {
  const { bounds } = unit(code);
  if (bounds) {
    const [low, high] = bounds;
    const nearTop = high - (high - low) / 100;
    return smallest >= nearTop
      ? { kind: 'threshold', is: 'below', limit: nearTop }
      : { kind: 'threshold', is: 'above', limit: low + 0.8 * (high - low) };
  }
  if (code === '1' && isShare({ smallest, largest })) {
    if (isWhole)
      return smallest === 1
        ? { kind: 'threshold', is: 'below', limit: 1 }
        : { kind: 'threshold', is: 'above', limit: 0 };
    return smallest >= 0.99
      ? { kind: 'threshold', is: 'below', limit: 0.99 }
      : { kind: 'threshold', is: 'above', limit: 0.8 };
  }
  return { kind: 'threshold', is: 'above', limit: largest > 0 ? Number((largest * 1.2).toPrecision(2)) : 1 };
}

/** Whether values lie where shares lie, from 0 to 1. @example isShare({ smallest: 0.2, largest: 0.9 }) // true */
export const isShare = ({ smallest, largest }: Pick<Seen, 'smallest' | 'largest'>): boolean =>
  smallest >= 0 && largest <= 1;
