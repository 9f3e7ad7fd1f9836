import { EventTrial, type EventRule, type OutsideEvent, type TriedByEvents } from '$lib/core/events';
import { after, before, day, duration, range, times, type Clock } from '$lib/core/time';
import { pauses } from '../base/pauses';
import type { Queryable } from '../db/pool';
import { pastEvents } from './outside-events';

/** Days of past events that a rule is tried on, and events at most. */
export const triedDays = 14;
const mostTried = 10_000;
const mostListed = 50;
/** How long it may take, ms of real time. */
const patienceMs = 10_000;

/** What a rule would have done. */
export interface TriedEventRule {
  /** Events that were looked at, and how many of them would raise. */
  readonly tried: number;
  readonly matches: number;
  /** Incidents that it would have raised, and the newest of them. */
  readonly count: number;
  readonly incidents: readonly TriedByEvents[];
  /** Events that match and raise, the newest. */
  readonly events: readonly OutsideEvent[];
}

/**
 * Tries a rule on what happened in the last {@link triedDays} days, as it would have been judged then. Others are served in between, however hard its patterns are.
 *
 * @throws Refusal `too-much-at-once` when it takes too long
 */
export async function tryOnPast(
  { db, clock }: { readonly db: Queryable; readonly clock: Clock },
  rule: EventRule
): Promise<TriedEventRule> {
  const now = clock.now();
  const past = range(before(now, times(triedDays, day)), after(now, duration(1)));
  const events = await pastEvents(db, past, mostTried);
  const trial = new EventTrial(rule);
  const matching: OutsideEvent[] = [];
  const pause = pauses(patienceMs);
  for (const event of events) {
    const effect = trial.take(event);
    if (effect === 'raises' || effect === 'again') matching.push(event);
    await pause();
  }
  const incidents = trial.result(now);
  return {
    tried: events.length,
    matches: matching.length,
    count: incidents.length,
    incidents: incidents.toReversed().slice(0, mostListed),
    events: matching.toReversed().slice(0, mostListed)
  };
}
