import type { Severity } from '../alarm';
import { groupBy } from '../lists/group-by';
import type { Duration, Instant } from '../time';

/** What a strip of time shows of an incident. */
export interface Drawn {
  readonly alarm: string;
  readonly subject: string;
  readonly severity: Severity;
  readonly openedAt: Instant;
  /** Null while it is open. */
  readonly closedAt: Instant | null;
}

/** Incidents that lie on the same place of a strip. */
export interface Pile<Incident extends Drawn> {
  /** The first that was given. */
  readonly first: Incident;
  /** How many there are, from 1. */
  readonly many: number;
  /** What they are, in words. */
  readonly words: string;
}

/**
 * Incidents of the same severity that begin within the same step and end within the same step, each pile once: in a storm, hundreds would be drawn upon each other.
 *
 * @param step how long a moment of the strip is, such as what one pixel stands for
 * @example piledUp([storm1, storm2, other], duration(15 * minute)).map(({ words }) => words) // ['Gate doors: 2, such as gate-1', 'Processor: booking-web-1']
 */
export function piledUp<Incident extends Drawn>(incidents: readonly Incident[], step: Duration): Pile<Incident>[] {
  const stepOf = (at: Instant | null) => (at === null ? 'open' : Math.floor(at / step));
  const piles = groupBy(
    incidents,
    ({ severity, openedAt, closedAt }) => `${severity} ${stepOf(openedAt)} ${stepOf(closedAt)}`
  );
  return [...piles.values()].map((pile) => {
    const [first] = pile as [Incident, ...Incident[]];
    const alarms = new Set(pile.map(({ alarm }) => alarm)).size;
    const what = alarms === 1 ? first.alarm : `${alarms} alarms`;
    const words =
      pile.length === 1 ? `${first.alarm}: ${first.subject}` : `${what}: ${pile.length}, such as ${first.subject}`;
    return { first, many: pile.length, words };
  });
}
