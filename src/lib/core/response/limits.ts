import { quietUntil } from '../people/quiet';
import { after, before, hour, minute, times, type Instant } from '../time';
import type { ResponseLimits } from './response';

/** Something that was done with a resource counts as affecting its group for so long after it ended. */
export const settling = times(5, minute);

/** What limits look at. */
export interface Situation {
  readonly now: Instant;
  /** Null for what is about no single resource. */
  readonly resourceId: number | null;
  /** When something was begun with the resource, by whomever, within the last hour and the rest; in any order. */
  readonly begun: readonly Instant[];
  /** Resources of the limited group; null where none is. */
  readonly members: readonly number[] | null;
  /** Resources with which something is under way, was done within {@link settling}, or that were stopped and not started again. */
  readonly affected: ReadonlySet<number>;
  readonly isMaintained: boolean;
}

export const holdReasons = ['maintenance', 'hours', 'rest', 'rate', 'share'] as const;

/** Why nothing may be done now. */
export interface HeldBack {
  readonly reason: (typeof holdReasons)[number];
  readonly says: string;
  /** When it may be done by this limit; null where nobody knows. */
  readonly until: Instant | null;
}

/**
 * What keeps a response from acting now: the first limit that does, or null.
 *
 * @example heldBackBy(usualLimits, situation)?.reason // 'rest'
 */
export function heldBackBy(limits: ResponseLimits, situation: Situation): HeldBack | null {
  const { now, resourceId, begun, members, affected, isMaintained } = situation;
  if (isMaintained && !limits.duringMaintenance)
    return { reason: 'maintenance', says: 'Maintenance is planned for now.', until: null };
  if (limits.notIn !== null) {
    const until = quietUntil({ hours: limits.notIn.hours, exceptFrom: null }, limits.notIn.zone, null, now);
    if (until !== null) return { reason: 'hours', says: 'It does nothing at these hours.', until };
  }
  // What was begun by a clock that was set back since counts as begun now.
  const earlier = begun.map((at) => (at > now ? now : at)).sort((a, b) => a - b);
  const last = earlier.at(-1);
  const rest = times(limits.restMinutes, minute);
  if (last !== undefined && now - last < rest)
    return {
      reason: 'rest',
      says: `Nothing is done with it for ${limits.restMinutes} min after something was.`,
      until: after(last, rest)
    };
  const within = earlier.filter((at) => at > before(now, hour));
  if (within.length >= limits.mostPerHour)
    return {
      reason: 'rate',
      says: `Something was done with it ${within.length === 1 ? 'once' : `${within.length} times`} within an hour.`,
      until: after(within[within.length - limits.mostPerHour] as Instant, hour)
    };
  if (limits.group !== null) {
    const all = members ?? [];
    const may = mayAtOnce(all.length, limits.group.oneIn);
    const others = all.filter((id) => id !== resourceId && affected.has(id)).length;
    if (resourceId === null || !all.includes(resourceId))
      return { reason: 'share', says: 'It does not belong to the group whose share is limited.', until: null };
    if (others + 1 > may)
      return {
        reason: 'share',
        says:
          may === 0
            ? `Of ${all.length}, not even one may be touched: one in ${limits.group.oneIn} is less than one.`
            : `Of ${all.length}, ${may} may be touched at a time, and ${others} ${others === 1 ? 'is' : 'are'}.`,
        until: null
      };
  }
  return null;
}

/** How many of a group may be touched at the same time: never more than one in so many. @example mayAtOnce(10, 3) // 3 */
export const mayAtOnce = (members: number, oneIn: number): number => Math.floor(members / oneIn);
