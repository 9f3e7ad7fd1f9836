import { LRUCache } from 'lru-cache';
import { refusalOf } from '$lib/core/problem/problem';
import { objectiveStep, signalsOfObjective, type Counted, type ObjectiveMeasure } from '$lib/core/objective';
import type { Column } from '$lib/core/signal';
import { before, day, hour, instant, range, times, type Clock, type Instant } from '$lib/core/time';
import type { Database } from '../db/pool';
import type { Series } from '../inventory/series';
import { completeUntilOf } from '../query/signals/arrivals';
import { arrivedNow } from '../query/signals/arrived-now';
import { resolveSignal, workOf } from '../query/signals/resolve';
import type { SignalEvaluator } from '../query/signals/work';
import type { StoreClient } from '../store/open-store';

/** What counting needs. */
export interface CountSources {
  readonly db: Database;
  readonly clock: Clock;
  readonly store: StoreClient;
  readonly evaluator: SignalEvaluator;
}

/** What was counted, with the series that it was counted of. */
export interface CountedOf extends Counted {
  readonly sources: readonly Series[];
}

/** So much is counted anew each time, each hour, and each day all: what comes late is nearly always recent. */
const [overlap, hourly] = [times(2, hour), times(3, day)];
/** Numbers of a piece of work, and cells of it at most. */
const [mostNumbers, mostCells] = [4_000_000, 20_000];
/** Bytes of counts that are remembered. */
const mostBytes = 64 * 1024 ** 2;

interface Remembered {
  readonly counted: CountedOf;
  /** When all of it was counted, and when the last days were, by the injected clock. */
  readonly wholeAt: Instant;
  readonly daysAt: Instant;
}

/** Counts what promises are about, in cells of five minutes, up to where these are complete; what was counted is remembered. */
export class ObjectiveCounts {
  readonly #sources: CountSources;
  readonly #remembered = new LRUCache<string, Remembered>({
    maxSize: mostBytes,
    sizeCalculation: ({ counted: { grid } }) => 1000 + grid.count * 16
  });
  readonly #running = new Map<string, Promise<CountedOf>>();

  constructor(sources: CountSources) {
    this.#sources = sources;
  }

  /** The present time, by the clock that counting goes by. */
  now(): Instant {
    return this.#sources.clock.now();
  }

  /**
   * @param from the first instant that is asked for
   * @throws Refusal where a signal cannot be evaluated
   */
  counted(of: ObjectiveMeasure, from: Instant): Promise<CountedOf> {
    const key = JSON.stringify(of);
    // One after the other: two that ask at once count once.
    const next = (this.#running.get(key) ?? Promise.resolve())
      .catch(() => undefined)
      .then(() => this.#count(key, of, from));
    this.#running.set(key, next);
    const forget = () => this.#running.get(key) === next && this.#running.delete(key);
    next.then(forget, forget);
    return next;
  }

  async #count(key: string, of: ObjectiveMeasure, from: Instant): Promise<CountedOf> {
    const { db, clock } = this.#sources;
    const now = clock.now();
    const signals = signalsOfObjective(of);
    const resolved = await Promise.all(signals.map((signal) => resolveSignal(db, signal)));
    const works = resolved.map((one) => workOf(one, now));
    const arrived = await arrivedNow(this.#sources);
    const complete = await Promise.all(resolved.map((one) => completeUntilOf(arrived, one, objectiveStep)));
    const ends = [
      ...complete.flatMap((one) => [...one.values()]),
      ...works.flatMap((one) => Object.values(one.linesUntil))
    ];
    const here = ends.reduce((least, one) => Math.min(least, one), now as number);
    const until = floor(here);
    const sources = [
      ...new Map(resolved.flatMap((one) => Object.values(one.series).flat()).map((one) => [one.id, one])).values()
    ];
    const known = this.#remembered.get(key);
    const isWhole =
      known === undefined || known.counted.grid.start > floor(from) || now - known.wholeAt >= day || now < known.daysAt;
    // What was asked for goes on being remembered, as far back from now as it was.
    const start = isWhole
      ? floor(Math.min(from, known === undefined ? from : known.counted.grid.start + Math.max(0, now - known.wholeAt)))
      : known.counted.grid.start;
    const isHourly = isWhole || now - known.daysAt >= hour;
    const count = Math.max(0, (until - start) / objectiveStep);
    const [good, all] = [new Float64Array(count).fill(NaN), new Float64Array(count).fill(NaN)];
    let begin = start;
    if (!isWhole) {
      begin = instant(Math.max(start, Math.min(endOf(known.counted), before(until, isHourly ? hourly : overlap))));
      const kept = (begin - start) / objectiveStep;
      good.set(known.counted.good.subarray(0, kept));
      all.set(known.counted.all.subarray(0, kept));
    }
    const cells = Math.max(1, Math.min(mostCells, Math.floor(mostNumbers / Math.max(1, sources.length))));
    for (let at: number = begin; at < until; at += cells * objectiveStep) {
      const span = range(instant(at), instant(Math.min(until, at + cells * objectiveStep)));
      const columns = await Promise.all(
        works.map(async (work) => {
          const worked = await this.#sources.evaluator.evaluate(work, span, objectiveStep);
          if (worked.kind === 'fault') throw refusalOf(worked.problem);
          return worked.rows.flatMap((row) => row.columns);
        })
      );
      fill(of, columns, good, all, (at - start) / objectiveStep);
    }
    const counted = { grid: { start, step: objectiveStep, count }, good, all, sources };
    this.#remembered.set(key, {
      counted,
      wholeAt: isWhole ? now : known.wholeAt,
      daysAt: isHourly ? now : known.daysAt
    });
    return counted;
  }
}

const floor = (at: number): Instant => instant(Math.max(0, Math.floor(at / objectiveStep) * objectiveStep));
const endOf = ({ grid: { start, step, count } }: Counted): number => start + step * count;

/** Puts what the columns of a piece say into the cells from one on. */
function fill(
  of: ObjectiveMeasure,
  columns: readonly (readonly Column[])[],
  good: Float64Array,
  all: Float64Array,
  first: number
): void {
  const cells = columns[0]?.[0]?.values.length ?? columns[1]?.[0]?.values.length ?? 0;
  for (let cell = 0; cell < cells; cell++) {
    if (of.kind === 'share') {
      good[first + cell] = sumAt(columns[0] ?? [], cell);
      all[first + cell] = sumAt(columns[1] ?? [], cell);
      continue;
    }
    let [holds, there] = [0, 0];
    for (const { values } of columns[0] ?? []) {
      const value = values[cell] as number;
      if (Number.isNaN(value)) continue;
      there++;
      if (of.is === 'above' ? value > of.limit : value < of.limit) holds++;
    }
    if (there === 0) continue;
    good[first + cell] = holds;
    all[first + cell] = there;
  }
}

/** The sum of what is there; NaN where nothing is. */
function sumAt(columns: readonly Column[], cell: number): number {
  let sum = NaN;
  for (const { values } of columns) {
    const value = values[cell] as number;
    if (!Number.isNaN(value)) sum = Number.isNaN(sum) ? value : sum + value;
  }
  return sum;
}
