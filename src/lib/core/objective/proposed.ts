import { minute, type Duration } from '../time';
import { burnLevels } from './burn-levels';
import { targetOf, type Objective, type ObjectiveLevel } from './objective';
import { longestOf } from './periods';

const step = 5;
const wholeSteps = (span: Duration): number => Math.max(step, Math.round(span / minute / step) * step);

/**
 * The levels that suit a promise, the mildest first.
 *
 * @example proposedLevels({ targetPercent: 99.9, period: { kind: 'rolling', days: 30 } }).at(-1) // { severity: 'critical', rate: 14.4, longMinutes: 60, shortMinutes: 5 }
 */
export function proposedLevels(objective: Pick<Objective, 'targetPercent' | 'period'>): ObjectiveLevel[] {
  return burnLevels(longestOf(objective.period), targetOf(objective))
    .map(({ severity, rate, long, short }) => ({
      ...{ severity, rate: Number(rate.toPrecision(3)) },
      ...{ longMinutes: wholeSteps(long), shortMinutes: wholeSteps(short) }
    }))
    .reverse();
}
