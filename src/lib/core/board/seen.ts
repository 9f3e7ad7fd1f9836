import { hour, times, type Instant } from '../time';

/** How a resource that was seen stands, the most urgent first. */
export const seenStates = ['silent', 'ended', 'new', 'reporting', 'not collected'] as const;
export type SeenState = (typeof seenStates)[number];

/** A resource that appeared within this time is new. */
const newWithin = times(48, hour);
/** How long the next sample may be overdue before a resource is silent, ms. */
const overdue = 15 * 60_000;

/** A resource that was there in the last hours, with how it stands. */
export interface SeenResource {
  readonly id: number;
  readonly name: string;
  readonly account: string;
  readonly service: string;
  readonly type: string;
  readonly firstSeenAt: Instant;
  readonly lastSeenAt: Instant;
  readonly state: SeenState;
}

interface Seen {
  readonly firstSeenAt: Instant;
  readonly endedAt: Instant | null;
  /** When its next sample should have been there; null when none ever was. */
  readonly dueBy: Instant | null;
}

/**
 * How a resource stands: `ended` when its provider lists it no more, `silent` when its samples stopped, `new` when it appeared within 48 hours, `not collected` when it never had a sample.
 *
 * @example seenState({ firstSeenAt: instant(0), endedAt: null, dueBy: null }, now) // 'not collected'
 */
export function seenState({ firstSeenAt, endedAt, dueBy }: Seen, now: Instant): SeenState {
  if (endedAt !== null) return 'ended';
  if (dueBy !== null && now - dueBy > overdue) return 'silent';
  if (now - firstSeenAt <= newWithin) return 'new';
  return dueBy === null ? 'not collected' : 'reporting';
}
