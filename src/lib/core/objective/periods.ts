import {
  before,
  dateAt,
  day,
  firstInstantAt,
  minute,
  range,
  times,
  type Duration,
  type Instant,
  type Range
} from '../time';
import type { Objective, ObjectivePeriod } from './objective';

/** The first instant of a month or quarter, so many of them away from the one that an instant is in. */
function begin(at: Instant, { unit, zone }: Extract<ObjectivePeriod, { kind: 'calendar' }>, away: number): Instant {
  const [year, month] = dateAt(at, zone).split('-').map(Number) as [number, number];
  const length = unit === 'quarter' ? 3 : 1;
  const months = year * 12 + Math.floor((month - 1) / length) * length + away * length;
  const first = `${String(Math.floor(months / 12)).padStart(4, '0')}-${String((months % 12) + 1).padStart(2, '0')}-01`;
  return firstInstantAt(first, '00:00', zone);
}

/**
 * The period that an instant is in: the days up to it, or its month or quarter by the clocks of a zone, which on days of changed clocks begins and ends where these do.
 *
 * @example periodOver({ kind: 'calendar', unit: 'month', zone: 'Europe/Rome' }, at) // from the first to the last midnight of the month
 */
export function periodOver(period: ObjectivePeriod, at: Instant): Range {
  return period.kind === 'rolling'
    ? range(before(at, times(period.days, day)), at)
    : range(begin(at, period, 0), begin(at, period, 1));
}

/** The period before one. */
export function periodBefore(period: ObjectivePeriod, { from }: Range): Range {
  return period.kind === 'rolling'
    ? range(before(from, times(period.days, day)), from)
    : range(begin(before(from, day), period, 0), from);
}

/** The longest that a period is. */
export const longestOf = (period: ObjectivePeriod) =>
  times(period.kind === 'rolling' ? period.days : period.unit === 'month' ? 31 : 92, day);

/** How far back a promise looks from any moment: over its period, or a longer span of a level. */
export const lookbackOf = ({ period, levels }: Pick<Objective, 'period' | 'levels'>): Duration =>
  times(Math.max(longestOf(period) / minute, ...levels.map(({ longMinutes }) => longMinutes)), minute);

/** A period in words, within a sentence. @example periodName({ kind: 'rolling', days: 30 }) // '30 days' */
export const periodName = (period: ObjectivePeriod): string =>
  period.kind === 'calendar' ? period.unit : period.days === 1 ? 'day' : `${period.days} days`;
