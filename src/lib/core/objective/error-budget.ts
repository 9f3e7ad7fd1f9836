import type { SpanCounts } from './count-sums';

/** How a promise stands over a span. */
export interface ErrorBudget extends SpanCounts {
  /** The share that was good, 0 to 1; null where there was nothing. */
  readonly share: number | null;
  /** How much of it may be bad. */
  readonly allowed: number;
  /** The share of the budget that is left: 1 when nothing was bad, 0 when it is spent, below 0 when more was bad than was allowed; null where there was nothing. */
  readonly left: number | null;
}

/**
 * The error budget of a span: what may be bad by the target, and how much of that is left.
 *
 * @param target the share that has to be good, above 0 and below 1
 * @throws RangeError for another target
 * @example errorBudget({ all: 1000, bad: 0.5 }, 0.999) // { all: 1000, bad: 0.5, share: 0.9995, allowed: 1, left: 0.5 }
 */
export function errorBudget({ all, bad }: SpanCounts, target: number): ErrorBudget {
  refuseTarget(target);
  const allowed = all * (1 - target);
  return {
    ...{ all, bad, allowed },
    share: all === 0 ? null : 1 - bad / all,
    left: all === 0 ? null : 1 - bad / allowed
  };
}

/**
 * How fast the budget is used in a span: 1 is just so fast that all of it is used at the end of the period, 0 is not at all.
 *
 * @returns null where there was nothing
 * @example burnRate({ all: 1000, bad: 10 }, 0.999) // 10
 */
export function burnRate({ all, bad }: SpanCounts, target: number): number | null {
  refuseTarget(target);
  return all === 0 ? null : bad / all / (1 - target);
}

/**
 * In how many periods from now the budget is spent, when it goes on being used as fast as lately; 0 when it is spent.
 *
 * @param left share of the budget that is left
 * @param rate how fast it is used, see {@link burnRate}
 * @returns null when it is not used at all
 * @example periodsLeft(0.5, 2) // 0.25
 */
export function periodsLeft(left: number, rate: number): number | null {
  if (left <= 0) return 0;
  return rate <= 0 ? null : left / rate;
}

function refuseTarget(target: number): void {
  if (!(target > 0 && target < 1))
    throw new RangeError(`errorBudget: expected a target above 0 and below 1, got ${target}`);
}
