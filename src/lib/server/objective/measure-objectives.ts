import { lookbackOf, ObjectiveCourse, objectiveMetrics, objectiveStep, type Objective } from '$lib/core/objective';
import { isRefused } from '$lib/core/problem/problem';
import { pointsOfLength } from '$lib/core/series';
import { before, cellStart, day, hour, range, times, type Grid, type Instant } from '$lib/core/time';
import type { Intake } from '../intake/ledger/intake';
import type { OwnMeasures } from '../intake/own/own-account';
import type { FetchedSeries } from '../providers/port/provider';
import { leftOutOf, touchedBy } from './left-out';
import { objectiveTag } from './objective-alarm';
import type { ObjectiveCounts } from './objective-counts';
import { objectives, type StoredObjective } from './objectives';

/** How far back a promise is measured when it is new, or another; and what is measured again each time, for what came late. */
const [measuredBack, overlap] = [times(30, day), times(2, hour)];

type Counts = Pick<ObjectiveCounts, 'now' | 'counted'>;

interface Measured {
  readonly version: number;
  readonly until: Instant;
}

/** Measures how promises stand. One for an engine: it remembers up to where each is measured. */
export class ObjectiveMeasures {
  readonly #counts: Counts;
  readonly #measured = new Map<number, Measured>();
  /** What is counted and not given yet; and what was given and is not known to be stored. */
  #series: FetchedSeries[] = [];
  #given: readonly FetchedSeries[] = [];
  #counting: Promise<void> | null = null;

  constructor(counts: Counts) {
    this.#counts = counts;
  }

  /**
   * Every promise that is on, as samples of its cells that are complete since the last time. They are counted beside it, since whatever judges alarms must not wait for them; one that cannot be
   * counted costs the others nothing.
   */
  async measure(worker: Pick<Intake, 'db' | 'log' | 'changes'>): Promise<OwnMeasures> {
    const all = (await objectives.all(worker.db)).filter(({ value }) => value.enabled);
    for (const id of this.#measured.keys()) if (!all.some((one) => one.id === id)) this.#measured.delete(id);
    // What was not stored, such as on a full disk, is measured once more.
    if (this.#given.length > 0) this.#measured.clear();
    if (all.length > 0) this.#counting ??= this.#countAll(worker, all).finally(() => (this.#counting = null));
    this.#given = this.#series;
    this.#series = [];
    return { resources: all.map(resourceOfObjective), series: this.#given };
  }

  /** Says that what was measured last is stored. */
  stored(): void {
    this.#given = [];
  }

  /** Resolves when nothing is counted any more. */
  async settled(): Promise<void> {
    await this.#counting;
  }

  async #countAll(
    { db, log, changes }: Pick<Intake, 'db' | 'log' | 'changes'>,
    all: readonly StoredObjective[]
  ): Promise<void> {
    let isFurther = false;
    for (const one of all)
      try {
        const { value, id, version, alarmId } = one;
        const known = this.#measured.get(id);
        const isKnown = known?.version === version;
        const now = this.#counts.now();
        const from = isKnown ? before(known.until, overlap) : before(now, measuredBack);
        const counted = await this.#counts.counted(value.of, before(from, lookbackOf(value)));
        const span = range(counted.grid.start, cellStart(counted.grid, counted.grid.count));
        const leftOut = value.leaveOutMaintenance ? await leftOutOf(db, counted.sources, alarmId, span) : [];
        const course = new ObjectiveCourse(value, counted, touchedBy(leftOut, objectiveStep));
        const begin = isKnown && course.until < known.until ? course.until : from;
        this.#series.push(...samplesOf(id, value, course, begin));
        isFurther ||= known?.version !== version || known.until !== course.until;
        this.#measured.set(id, { version, until: course.until });
      } catch (error) {
        // What is wrong with its signals is said where it is looked at.
        if (!isRefused(error)) log.error({ err: error, objective: one.id }, 'a promise could not be counted');
      }
    if (isFurther) changes.tell('objectives', {});
  }
}

export const resourceIdOf = (id: number): string => `promise/${id}`;

/** A promise as a resource of Bussola's own. */
const resourceOfObjective = ({ id, value: { name } }: StoredObjective) => ({
  ...{ providerId: resourceIdOf(id), name, type: 'promise', service: 'objectives', region: '' },
  tags: { [objectiveTag]: String(id) },
  ...{ guest: 'none' as const, formerNames: [] }
});

function samplesOf(id: number, { levels }: Objective, course: ObjectiveCourse, from: Instant): FetchedSeries[] {
  const { grid, left, share, pace } = course.courseOver(range(from, course.until));
  const percent = (values: Float64Array) => values.map((value) => value * 100);
  return [
    seriesOf(id, objectiveMetrics.left, grid, percent(left)),
    seriesOf(id, objectiveMetrics.share, grid, percent(share)),
    ...(levels.length === 0 ? [] : [seriesOf(id, objectiveMetrics.pace, grid, pace)])
  ].filter(({ points }) => points.at.length > 0);
}

function seriesOf(id: number, metric: string, grid: Grid, values: Float64Array): FetchedSeries {
  const cells = [...values.keys()].filter((cell) => !Number.isNaN(values[cell] as number));
  const points = pointsOfLength(cells.length);
  cells.forEach((cell, index) => {
    points.at[index] = cellStart(grid, cell);
    points.sum[index] = points.min[index] = points.max[index] = values[cell] as number;
    points.count[index] = 1;
  });
  return { resource: resourceIdOf(id), metric, labels: {}, points };
}
