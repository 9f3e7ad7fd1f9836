import { isAmong, tryEventRule, type EventRule, type OutsideEvent, type TriedByEvents } from '$lib/core/events';
import { after, before, day, duration, times, type Clock } from '$lib/core/time';
import type { Queryable } from '../db/pool';
import { pastEvents } from './outside-events';

/** Days of past events that a rule is tried on, and events at most. */
export const triedDays = 14;
const mostTried = 10_000;
const mostListed = 50;

/** What a rule would have done. */
export interface TriedEventRule {
  /** Events that were looked at, and how many of them raise or would clear. */
  readonly tried: number;
  readonly matches: number;
  /** Incidents that it would have raised, and the newest of them. */
  readonly count: number;
  readonly incidents: readonly TriedByEvents[];
  /** Events that match and raise, the newest. */
  readonly events: readonly OutsideEvent[];
}

/** Tries a rule on what happened in the last {@link triedDays} days, as it would have been judged then. */
export async function tryOnPast(
  { db, clock }: { readonly db: Queryable; readonly clock: Clock },
  rule: EventRule
): Promise<TriedEventRule> {
  const now = clock.now();
  const events = await pastEvents(
    db,
    { from: before(now, times(triedDays, day)), to: after(now, duration(1)) },
    mostTried
  );
  const incidents = tryEventRule(rule, events, now);
  const matching = events.filter((event) => isAmong(rule.when, event));
  return {
    tried: events.length,
    matches: matching.length,
    count: incidents.length,
    incidents: incidents.toReversed().slice(0, mostListed),
    events: matching.toReversed().slice(0, mostListed)
  };
}
