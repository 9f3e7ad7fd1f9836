import type { Severity } from '$lib/core/alarm';
import {
  lookbackOf,
  ObjectiveCourse,
  objectiveStep,
  type Objective,
  type ObjectiveStanding,
  type PastObjectivePeriod,
  type Used
} from '$lib/core/objective';
import { problemOf, Refusal, type Problem } from '$lib/core/problem/problem';
import { before, cellStart, day, hour, range, times, type Instant, type Range } from '$lib/core/time';
import { incidentsIn } from '../incidents/overlapping';
import { marksIn } from '../marks/marks';
import { leftOutOf, touchedBy, type LeftOut } from './left-out';
import type { CountSources, ObjectiveCounts } from './objective-counts';
import type { StoredObjective } from './objectives';

/** What looking at promises needs. */
export interface ObjectiveReader extends Pick<CountSources, 'db' | 'clock'> {
  readonly objectives: ObjectiveCounts;
}

interface Followed {
  readonly course: ObjectiveCourse;
  readonly leftOut: readonly LeftOut[];
  readonly services: readonly string[];
}

/** A promise followed from an instant on, and as long as its period is before that. */
async function followed(
  { db, objectives: counts }: ObjectiveReader,
  objective: Objective,
  alarmId: number | null,
  from: Instant
): Promise<Followed> {
  const counted = await counts.counted(objective.of, before(from, lookbackOf(objective)));
  const span = range(counted.grid.start, cellStart(counted.grid, counted.grid.count));
  const leftOut = objective.leaveOutMaintenance ? await leftOutOf(db, counted.sources, alarmId, span) : [];
  return {
    course: new ObjectiveCourse(objective, counted, touchedBy(leftOut, objectiveStep)),
    leftOut,
    services: [...new Set(counted.sources.map(({ service }) => service))]
  };
}

/** How a promise stands, or why that cannot be said. */
export type StandingOrProblem =
  | { readonly standing: ObjectiveStanding; readonly problem: null }
  | { readonly standing: null; readonly problem: Problem };

/** How promises stand, in their order. */
export async function objectiveStandings(
  reader: ObjectiveReader,
  all: readonly StoredObjective[]
): Promise<StandingOrProblem[]> {
  const found: StandingOrProblem[] = [];
  for (const { value, alarmId } of all)
    try {
      const { course } = await followed(reader, value, alarmId, reader.clock.now());
      found.push({ standing: course.standing(), problem: null });
    } catch (error) {
      if (!(error instanceof Refusal)) throw error;
      found.push({ standing: null, problem: problemOf(error) });
    }
  return found;
}

/** How a promise stood at a moment: the share that was good and that was left of its budget, null where nothing was counted; or why that cannot be said. */
export type KeptAt =
  | { readonly share: number | null; readonly left: number | null; readonly problem: null }
  | { readonly share: null; readonly left: null; readonly problem: Problem };

/** How promises stood at a moment, in their order: at what is counted last, where that is before it. */
export async function objectivesAt(
  reader: ObjectiveReader,
  all: readonly StoredObjective[],
  at: Instant
): Promise<KeptAt[]> {
  // What is later than now is counted up to now.
  const moment = Math.min(at, reader.clock.now()) as Instant;
  const found: KeptAt[] = [];
  for (const { value, alarmId } of all)
    try {
      const { course } = await followed(reader, value, alarmId, moment);
      const until = Math.min(moment, course.until) as Instant;
      const { share, left } = course.courseOver(range(before(until, objectiveStep), until));
      found.push({ share: knownOf(share), left: knownOf(left), problem: null });
    } catch (error) {
      if (!(error instanceof Refusal)) throw error;
      found.push({ share: null, left: null, problem: problemOf(error) });
    }
  return found;
}

function knownOf(values: Float64Array): number | null {
  const last = values.at(-1) ?? NaN;
  return Number.isNaN(last) ? null : last;
}

/** A stretch in which much of a budget went, with what happened then. */
export interface UsedBy extends Used {
  readonly incidents: readonly { readonly id: number; readonly subject: string; readonly severity: Severity }[];
  readonly marks: readonly { readonly text: string; readonly at: Instant }[];
}

/** A promise looked at closely. */
export interface ObjectiveView {
  readonly standing: ObjectiveStanding;
  /** What was left of the budget, one number a cell of the chart. */
  readonly left: { readonly at: readonly Instant[]; readonly values: readonly number[] };
  readonly past: readonly PastObjectivePeriod[];
  readonly used: readonly UsedBy[];
  readonly leftOut: readonly LeftOut[];
}

/** Points of the chart, stretches that are named, periods of history. */
const [mostPoints, mostUsed, mostPeriods] = [360, 6, 13];
/** How long before a stretch a mark may be that it is told with. */
const markedBefore = times(2, hour);
/** History that is looked at for past periods. */
const historyDays = 400;

/**
 * A promise looked at closely, over its present period.
 *
 * @throws Refusal where it cannot be counted
 */
export async function objectiveView(
  reader: ObjectiveReader,
  objective: Objective,
  alarmId: number | null
): Promise<ObjectiveView> {
  const now = reader.clock.now();
  const from = before(now, times(historyDays, day));
  const { course, leftOut, services } = await followed(reader, objective, alarmId, from);
  const standing = course.standing();
  const { period, until } = standing;
  const shown = range(period.from, until);
  const used = course.used(shown, mostUsed);
  return {
    standing,
    left: thinned(course, shown),
    past: course.past(mostPeriods).filter(({ all }) => all > 0),
    used: await Promise.all(used.map((one) => withCauses(reader, one, services))),
    leftOut: leftOut.filter((one) => one.to > shown.from && one.from < shown.to)
  };
}

function thinned(course: ObjectiveCourse, shown: Range): ObjectiveView['left'] {
  const { grid, left } = course.courseOver(shown);
  const every = Math.max(1, Math.ceil(grid.count / mostPoints));
  const cells = [...left.keys()].filter((cell) => (grid.count - 1 - cell) % every === 0);
  return {
    at: cells.map((cell) => cellStart(grid, cell + 1)),
    values: cells.map((cell) => left[cell] as number)
  };
}

async function withCauses({ db }: ObjectiveReader, used: Used, services: readonly string[]): Promise<UsedBy> {
  const [incidents, marks] = await Promise.all([
    incidentsIn(db, used, services, 3),
    marksIn(db, range(before(used.from, markedBefore), used.to), { services })
  ]);
  return { ...used, incidents, marks: marks.slice(0, 2).map(({ text, from }) => ({ text, at: from })) };
}

/** What levels would have raised. */
export interface TriedLevel {
  readonly severity: Severity;
  readonly times: number;
  /** The newest; null for none. */
  readonly last: Range | null;
}

/** Days over which the levels of a promise are tried. */
const triedDays = 30;

/**
 * What a promise would have been worth so far: how it would stand, how its past periods were kept, and how often each level would have been reached in the last 30 days.
 *
 * @throws Refusal where it cannot be counted
 */
export async function tryObjective(
  reader: ObjectiveReader,
  objective: Objective,
  alarmId: number | null = null
): Promise<{
  readonly standing: ObjectiveStanding;
  readonly past: readonly PastObjectivePeriod[];
  readonly raised: readonly TriedLevel[];
}> {
  const now = reader.clock.now();
  const { course } = await followed(reader, objective, alarmId, before(now, times(historyDays, day)));
  const { grid, pace } = course.courseOver(range(before(course.until, times(triedDays, day)), course.until));
  const raised = objective.levels.map(({ severity, rate }, index): TriedLevel => {
    const next = objective.levels[index + 1]?.rate ?? Infinity;
    let [count, last, begin] = [0, null as Range | null, -1];
    for (let cell = 0; cell <= pace.length; cell++) {
      const value = pace[cell] ?? NaN;
      const isOn = value > rate && value <= next;
      if (isOn && begin === -1) begin = cell;
      if (isOn || begin === -1) continue;
      count++;
      last = range(cellStart(grid, begin), cellStart(grid, cell));
      begin = -1;
    }
    return { severity, times: count, last };
  });
  return { standing: course.standing(), past: course.past(mostPeriods).filter(({ all }) => all > 0), raised };
}
