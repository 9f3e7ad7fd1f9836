import { before, day, minute, times, type Instant } from '../time';

/** How a resource stands: found and heard of; found, but nothing comes of it; no longer found. */
export const resourceStates = ['up', 'silent', 'down'] as const;
export type ResourceState = (typeof resourceStates)[number];

/** The names of what Bussola measures of every resource that a provider lists: whether it is up, and how long its heartbeat is overdue. */
export const resourceMetrics = { up: 'resource.up', overdue: 'resource.overdue' } as const;

/** How long a heartbeat may be overdue before a resource counts as silent. */
export const heartbeatOverdue = times(5, minute);
/** A resource that its provider no longer lists counts as down for so long; then it is history. */
const downFor = day;

/** What is known of a resource: by discovery, and by its samples. */
export interface Known {
  /** When its provider stopped listing it; null while it does. */
  readonly endedAt: Instant | null;
  /** When its next sample should have been there; null when none ever was. */
  readonly dueBy: Instant | null;
}

/**
 * How a resource stands, from discovery and heartbeat: its samples are its heartbeat.
 *
 * @returns null for one that was never heard of, and for one that ended more than a day ago
 * @example resourceState({ endedAt: null, dueBy: at('14:00') }, at('14:06')) // 'silent'
 */
export function resourceState({ endedAt, dueBy }: Known, now: Instant): ResourceState | null {
  if (endedAt !== null) return endedAt > before(now, downFor) ? 'down' : null;
  if (dueBy === null) return null;
  return now - dueBy > heartbeatOverdue ? 'silent' : 'up';
}

/** How long a heartbeat is overdue, s; 0 while it is not. @example overdueSeconds(at('14:00'), at('14:06')) // 360 */
export const overdueSeconds = (dueBy: Instant, now: Instant): number => Math.max(0, (now - dueBy) / 1000);
