import { noMemory, type LevelMemory, type RememberedSeries, type Rule, type Severity } from '$lib/core/alarm';
import { before, day, times, type Duration, type Instant } from '$lib/core/time';
import type { KnownIncident } from '../incidents/incidents';

/** How far back cells are judged after a stop. */
const longestCatchUp = times(2, day);

/** How one series is judged: which cells, and whether it begins with the window before them. */
export interface Plan {
  readonly from: Instant;
  readonly to: Instant;
  readonly begins: boolean;
  /** The levels as they were; null for one of which nothing is known. */
  readonly levels: readonly (LevelMemory | null)[];
}

/** @param gapsFinal up to where the gaps of the series are final; null where that is not known */
export type Planner = (key: string, completeUntil: number, gapsFinal: Instant | null) => Plan | null;

/** What plans are made from. */
export interface PlannedFrom {
  readonly rule: Rule;
  readonly step: Duration;
  readonly now: Instant;
  /** Up to where any cell is complete. */
  readonly latest: Instant;
  /** From when on a series is judged that was not there before; its newest cell where it is not said. */
  readonly newFrom?: Instant | null;
  readonly known: ReadonlyMap<string, RememberedSeries>;
  readonly open: readonly KnownIncident[];
  /** Whether what is remembered was judged by this definition. */
  readonly isSameVersion: boolean;
}

/** Plans how each series of an alarm is judged; null for one with nothing to judge. */
export function planner({ rule, step, now, latest, newFrom, known, open, isSameVersion }: PlannedFrom): Planner {
  const openOf = new Map(open.map((incident) => [incident.key, incident]));
  const whole = (at: number) => (Math.floor(at / step) * step) as Instant;
  return (key, completeUntil, final) => {
    const to = whole(Math.min(completeUntil, latest));
    if (to <= 0) return null;
    const one = known.get(key);
    const incident = openOf.get(key);
    if (one === undefined) {
      // It begins where nothing before can change any more.
      const from = Math.max(Math.min(to - step, final ?? to, newFrom ?? to), before(to, longestCatchUp)) as Instant;
      return { from, to, begins: true, levels: heldFrom(rule, incident?.severity ?? null) };
    }
    // What was judged in the future was judged by a clock that has been set back since: the cells that come are judged as they come.
    const judgedUntil =
      one.judgedUntil > now + step ? before(whole(now), step) : ((Math.ceil(one.judgedUntil / step) * step) as Instant);
    // Under a new definition the newest cell is judged again, so that it counts at once.
    const next = isSameVersion ? judgedUntil : Math.min(judgedUntil, before(to, step));
    const from = Math.max(next, before(to, longestCatchUp)) as Instant;
    if (from >= to) return null;
    // History that came later may have found it raised, which the engine could not know.
    const isFound = incident !== undefined && one.memory.levels.every(({ held }) => !held);
    const begins = one.begins || !isSameVersion || from > judgedUntil || isFound;
    return { from, to, begins, levels: isFound ? heldFrom(rule, incident.severity) : one.memory.levels };
  };
}

/** The levels up to a severity, as they are after having been raised with it. */
const heldFrom = (rule: Rule, severity: Severity | null): (LevelMemory | null)[] => {
  const position = rule.levels.findLastIndex((level) => level.severity === severity);
  return rule.levels.map((_, index) => (index <= position ? raisedLevel : null));
};
const raisedLevel: LevelMemory = { state: 'raised', held: true, recent: new Uint8Array(0), peak: null };

/**
 * What is remembered of a series by an earlier definition, as the present one goes on with it: levels by their severity, and the windows begin anew. A level that was held and is no more passes that on to the one in its
 * place, or the gravest.
 */
export function asRemembered(rule: Rule, one: RememberedSeries, before: readonly Severity[]): RememberedSeries {
  const { levels } = one.memory;
  const fresh = noMemory(rule).levels;
  const now = rule.levels.map(
    ({ severity }, position) => levels[before.indexOf(severity)] ?? (fresh[position] as LevelMemory)
  );
  for (const [position, level] of levels.entries()) {
    if (!level.held || rule.levels.some(({ severity }) => severity === before[position])) continue;
    now[Math.min(position, now.length - 1)] = level;
  }
  return { ...one, begins: true, memory: { levels: now } };
}
