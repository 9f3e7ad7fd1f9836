import { after, durationFromText, type Instant } from '../time';
import { thingOf, type OutsideEvent } from './event';
import { isAmong, type EventRule } from './event-rule';

/** What a rule has raised on one thing. */
export interface RaisedByEvents {
  readonly openedAt: Instant;
  /** The last event that raises it. */
  readonly lastAt: Instant;
  readonly events: number;
}

/** What an event is to a rule: it raises something, raises it once more, clears it, or is nothing to it. */
export type EventEffect = 'raises' | 'again' | 'clears' | null;

/**
 * What an event does with what a rule has raised on the thing that it is about. One that raises and would clear as well raises. What clears is at least as late as the last one that raises: an older one that arrives late clears nothing.
 *
 * @param raised null while nothing is
 */
export function effectOf(rule: EventRule, raised: RaisedByEvents | null, event: OutsideEvent): EventEffect {
  if (isAmong(rule.when, event)) return raised === null ? 'raises' : 'again';
  const { clears } = rule;
  const isCleared =
    clears.by === 'event' && raised !== null && event.at >= raised.lastAt && isAmong(clears.when, event);
  return isCleared ? 'clears' : null;
}

/** What is raised after an event that raises. One that comes late does not move its beginning: something may have been clear in between. */
export const raisedAfter = (raised: RaisedByEvents | null, { at }: Pick<OutsideEvent, 'at'>): RaisedByEvents =>
  raised === null
    ? { openedAt: at, lastAt: at, events: 1 }
    : {
        openedAt: raised.openedAt,
        lastAt: at > raised.lastAt ? at : raised.lastAt,
        events: raised.events + 1
      };

/** When what is raised is clear by itself; null where only an event or a person clears it. @example clearsAt(rule, raised) */
export const clearsAt = ({ clears }: EventRule, { lastAt }: Pick<RaisedByEvents, 'lastAt'>): Instant | null =>
  clears.by === 'time' ? after(lastAt, durationFromText(clears.after)) : null;

/** An incident that a rule would have raised. */
export interface TriedByEvents extends RaisedByEvents {
  readonly thing: string;
  /** The event that raised it. */
  readonly event: OutsideEvent;
  /** Null while it would be raised still. */
  readonly closedAt: Instant | null;
}

/** A rule that is tried on past events, one after the other: what it would have raised by each. */
export class EventTrial {
  readonly #rule: EventRule;
  readonly #open = new Map<string, number>();
  readonly #all: TriedByEvents[] = [];

  constructor(rule: EventRule) {
    this.#rule = rule;
  }

  /** @param event not earlier than those before it @returns what it would have done */
  take(event: OutsideEvent): EventEffect {
    this.#passTo(event.at);
    const thing = thingOf(event);
    const place = this.#open.get(thing);
    const known = place === undefined ? null : (this.#all[place] ?? null);
    const effect = effectOf(this.#rule, known, event);
    if (effect === null) return null;
    if (effect === 'clears') {
      if (place !== undefined) this.#close(thing, place, event.at);
      return effect;
    }
    const next = { ...raisedAfter(known, event), thing, event: known?.event ?? event, closedAt: null };
    if (place === undefined) this.#open.set(thing, this.#all.push(next) - 1);
    else this.#all[place] = next;
    return effect;
  }

  /** The incidents, in the order in which they would have been raised; what clears with time is looked at up to now. */
  result(now: Instant): readonly TriedByEvents[] {
    this.#passTo(now);
    return this.#all;
  }

  #passTo(at: Instant): void {
    if (this.#rule.clears.by !== 'time') return;
    for (const [thing, place] of this.#open) {
      const one = this.#all[place];
      const end = one === undefined ? null : clearsAt(this.#rule, one);
      if (end !== null && end <= at) this.#close(thing, place, end);
    }
  }

  #close(thing: string, place: number, closedAt: Instant): void {
    const one = this.#all[place];
    if (one !== undefined) this.#all[place] = { ...one, closedAt };
    this.#open.delete(thing);
  }
}

/**
 * The incidents that a rule would have raised by past events, in the order in which they would have been.
 *
 * @param events in order of their time
 * @example tryEventRule(rule, events, now).length // 3
 */
export function tryEventRule(rule: EventRule, events: readonly OutsideEvent[], now: Instant): readonly TriedByEvents[] {
  const trial = new EventTrial(rule);
  for (const event of events) trial.take(event);
  return trial.result(now);
}
