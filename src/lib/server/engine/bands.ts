import { createHash } from 'node:crypto';
import { setImmediate } from 'node:timers/promises';
import { LRUCache } from 'lru-cache';
import {
  asStored,
  bandLeadHours,
  bandOn,
  fitBand,
  hourLevels,
  modelBytes,
  modelFromBytes,
  transformedColumn,
  type BandCells,
  type BandModel
} from '$lib/core/band';
import type { Column } from '$lib/core/signal';
import {
  before,
  cellStart,
  day,
  duration,
  hour,
  minute,
  range,
  times,
  type Duration,
  type Grid,
  type Instant
} from '$lib/core/time';
import { unit as unitOf } from '$lib/core/units';
import type { Database } from '../db/pool';
import { pastIncidents } from '../incidents/incidents';
import { markedSpans } from '../marks/marks';
import type { Resolved } from '../query/signals/resolve';
import { modelsOf, saveModel } from './band-models';
import { columnKey, evaluated, type BandsOf, type ReadingContext } from './condition-data';

/** The history that a band is learned from. */
export const bandHistory = times(28, day);
/** Bands are learned and followed in cells of at least this length. */
const bandStep = times(5, minute);
/** What ends less than this before a day or an hour may not have arrived yet: it does not count. */
const settled = hour;
/** A model of less history than it could have is fitted anew after so long, in ms of this process; none is looked for again sooner, since history may be on its way. */
const youngFor = 3_600_000;
const noneFor = 60_000;
/** A model takes about 10 kB. */
const mostModels = 4000;
const mostLevels = 200_000;

/**
 * The anomaly bands of signals: a model of each series is fitted once a day on the four weeks before, from midnight UTC on; where it stands is looked at once an hour. Both depend on nothing but what was stored before, so that
 * a rehearsal over the same history has the same bands. Lives in the thread of the samples.
 */
export class Bands {
  readonly #db: Database;
  readonly #models = new LRUCache<string, { readonly model: BandModel | null; readonly isWhole: boolean }>({
    max: mostModels
  });
  readonly #levels = new LRUCache<string, number>({ max: mostLevels });

  constructor(db: Database) {
    this.#db = db;
  }

  readonly of: BandsOf = async (context, resolved, columns, grid) => {
    const step = duration(Math.max(bandStep, grid.step));
    const nameOf = namesFor(resolved, step);
    const modelAt = (column: Column, at: number) => this.#models.get(nameOf(column, at - (at % day)))?.model ?? null;
    const reading = { context, resolved, step, grid, nameOf };
    for (const at of startsWithin(grid, day)) {
      const unknown = () =>
        columns.filter((column) => {
          const known = this.#models.get(nameOf(column, at));
          return known === undefined || (context.anew === true && !known.isWhole);
        });
      if (unknown().length > 0) await this.#recall(nameOf, unknown(), at);
      const missing = unknown();
      if (missing.length > 0) await this.#fit(reading, missing, at);
    }
    const hours = startsWithin(grid, hour);
    const unfollowed = columns.filter((column) =>
      hours.some((at) => modelAt(column, at) !== null && !this.#levels.has(nameOf(column, at)))
    );
    if (unfollowed.length > 0) await this.#follow(reading, unfollowed);
    return columns.map((column): BandCells | null => {
      if (hours.every((at) => modelAt(column, at) === null)) return null;
      return bandOn(
        grid,
        (at) => modelAt(column, at),
        (at) => this.#levels.get(nameOf(column, at - (at % hour))) ?? NaN
      );
    });
  };

  /** Fits the models that are in force on a day. */
  async #fit({ context, resolved, step, nameOf }: BandReading, columns: readonly Column[], at: Instant): Promise<void> {
    const span = range(before(at, bandHistory), before(at, settled));
    const history = await evaluated(context, resolved, span, step);
    const byKey = new Map(history.columns.map((column) => [columnKey(column), column.values]));
    const { bounds } = unitOf(history.unit);
    const marked = await markedSpans(this.#db, span);
    const past = await pastIncidents(
      this.#db,
      columns.flatMap(({ seriesId }) => seriesId ?? []),
      span
    );
    for (const column of columns) {
      const values = byKey.get(columnKey(column));
      const { service } = column.labels;
      const exclude = [
        ...((column.seriesId !== null && past.get(column.seriesId)) || []),
        ...marked.filter((mark) => mark.service === null || service === undefined || mark.service === service)
      ];
      const fitted = values ? fitBand(values, history.grid, { bounds: bounds ?? null, exclude }) : null;
      const model = fitted && asStored(fitted);
      const isWhole = model !== null && model.days > bandHistory / day - 1.5;
      const ttl = isWhole ? {} : { ttl: model === null ? noneFor : youngFor };
      this.#models.set(nameOf(column, at), { model, isWhole }, ttl);
      // Where a series stands is seen through its model.
      for (let place = 0; place < day; place += hour) this.#levels.delete(nameOf(column, at + place));
      // Those of past days are fitted by rehearsals as well, of signals that nobody may watch.
      if (isWhole && at > context.now - day)
        await saveModel(this.#db, nameOf.signal, columnKey(column), at, modelBytes(model));
      await setImmediate(); // what people ask comes in between
    }
  }

  /** Takes from the database the models of a day that were fitted before, by this process or another one. */
  async #recall(nameOf: NameOf, columns: readonly Column[], at: Instant): Promise<void> {
    const stored = await modelsOf(this.#db, nameOf.signal, at);
    for (const column of columns) {
      const bytes = stored.get(columnKey(column));
      const model = bytes && modelFromBytes(bytes);
      if (model) this.#models.set(nameOf(column, at), { model, isWhole: true });
    }
  }

  /** Looks where series stood at each hour of a grid. */
  async #follow({ context, resolved, step, grid, nameOf }: BandReading, columns: readonly Column[]): Promise<void> {
    const from = before((grid.start - (grid.start % hour)) as Instant, times(bandLeadHours, hour));
    const read = await evaluated(context, resolved, range(from, cellStart(grid, grid.count)), step);
    const byKey = new Map(read.columns.map((column) => [columnKey(column), column.values]));
    for (const column of columns) {
      const values = byKey.get(columnKey(column)) ?? new Float64Array(read.grid.count).fill(NaN);
      for (const today of startsWithin(grid, day)) {
        const model = this.#models.get(nameOf(column, today))?.model;
        if (!model) continue;
        const levels = hourLevels(transformedColumn(model.transform, values), read.grid.start, step, model);
        for (const at of startsWithin(grid, hour)) {
          if (at - (at % day) !== today) continue;
          const known = levels.before[Math.round((at - settled - levels.start) / hour)] ?? NaN;
          this.#levels.set(nameOf(column, at), known);
        }
      }
    }
  }
}

/** What models and levels of a signal are looked up and read by. */
interface BandReading {
  readonly context: ReadingContext;
  readonly resolved: Resolved;
  readonly step: Duration;
  readonly grid: Grid;
  readonly nameOf: NameOf;
}

/** Short names for the series of a signal at a moment; that of the signal alone beside them. */
interface NameOf {
  (column: Column, at: number): string;
  readonly signal: string;
}

/** Short names for the series of a signal at a moment: equal signals share their bands, whichever alarm asks. */
function namesFor({ signal: { rows, show, unit } }: Resolved, step: Duration): NameOf {
  const shown = createHash('sha256')
    .update(JSON.stringify([rows, show, unit, step]))
    .digest('base64')
    .slice(0, 16);
  return Object.assign((column: Column, at: number) => `${shown} ${columnKey(column)} ${at}`, { signal: shown });
}

/** The starts of the days or hours, UTC, that the cells of a grid lie in. */
function startsWithin({ start, step, count }: Grid, length: Duration): Instant[] {
  const starts: Instant[] = [];
  const end = start + count * step;
  for (let at = start - (start % length); at < end; at += length) starts.push(at as Instant);
  return starts;
}
