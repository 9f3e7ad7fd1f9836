import { Refusal, problemOf } from '../problem/problem';
import { valuesOf, type QueryAnswer } from '../series';
import { cellStart, type Duration, type Grid, type Instant } from '../time';
import { answerOf, resourceKey } from './answer';
import { evaluateRows, prepare, wantedLinesOf, wantedOf, type Table } from './evaluate';
import { readRows, type LinesRow, type SignalPick, type Signal } from './schema';

/** Picks that were computed elsewhere: what formulas, limits and units over them can be computed from again. */
export interface CachedPicks {
  readonly now: Instant;
  readonly grid: Grid;
  readonly completeUntil: number;
  readonly partial: QueryAnswer['partial'];
  /** What a pick selects, whatever its row is called. */
  readonly tables: ReadonlyMap<string, Table>;
  readonly resources: ReadonlyMap<string, number>;
}

/** What a pick, or a row of lines, asks for as text, whatever its row is called. @example pickKey({ name: 'a', metric: 'm', where: [], statistic: 'avg' }) */
export const pickKey = ({ name: _, ...asked }: SignalPick | LinesRow): string =>
  JSON.stringify(Object.entries(asked).sort());

/** The signal whose answer holds every row of another that is read whole. @example picksAlone(signal).show // ['a', 'b'] */
export function picksAlone({ version, step, ...signal }: Signal): Signal {
  const rows = readRows(signal);
  return { version, step, rows, show: rows.map(({ name }) => name) };
}

/** An answer to {@link picksAlone} as what can be worked with. */
export function cachedPicksOf(signal: Signal, answer: QueryAnswer): CachedPicks {
  const grid = { ...gridOf(answer), ...(answer.calendar ? { calendar: answer.calendar } : {}) };
  const tables = new Map(
    readRows(signal).map((pick) => [
      pickKey(pick),
      {
        unit: answer.rows.find(({ name }) => name === pick.name)?.unit ?? '1',
        isRatio: false,
        columns: answer.series
          .filter(({ row }) => row === pick.name)
          .map((series) => ({
            labels: series.labels,
            values: valuesOf(series),
            newest: series.newest,
            completeUntil: cellStart(grid, series.complete),
            seriesId: series.seriesId
          }))
      }
    ])
  );
  const resources = new Map(
    answer.series.map(({ account, resource, resourceId }) => [resourceKey(account, resource), resourceId])
  );
  return {
    now: answer.now,
    grid,
    completeUntil: cellStart(grid, answer.complete),
    partial: answer.partial,
    tables,
    resources
  };
}

/**
 * Works a signal out of picks that are cached, by the same code as everywhere.
 *
 * @returns with no time taken, since nothing here knows the time; null when it needs more than is cached: other picks, or cells before the cached ones
 * @example answerFromCache(signal, cachedPicksOf(signal, answer))?.series[0].values
 */
export function answerFromCache(signal: Signal, cached: CachedPicks): ReturnType<typeof answerOf> | null {
  try {
    const prepared = prepare(signal);
    const { grid, tables } = cached;
    const wanted = [
      ...wantedOf(prepared, grid).map(({ row, grid: on }) => ({ of: row.pick, on })),
      ...wantedLinesOf(prepared, grid).map(({ row, grid: on }) => ({ of: row.lines, on }))
    ];
    const isHere = wanted.every(({ of, on }) => on === grid && tables.has(pickKey(of)));
    if (!isHere) return null;
    const tableOf = (of: SignalPick | LinesRow) => tables.get(pickKey(of)) as Table;
    const evaluation = evaluateRows(
      prepared,
      grid,
      { pick: ({ pick }) => tableOf(pick), lines: ({ lines }) => tableOf(lines) },
      cached.completeUntil
    );
    const series = wanted.reduce((sum, { of }) => sum + tableOf(of).columns.length, 0);
    const effort = { series, points: series * grid.count, resolution: 0, milliseconds: 0, here: true };
    const answer = answerOf(
      { kind: 'worked', grid, effort, ...evaluation },
      cached.completeUntil,
      cached.now,
      cached.resources,
      new Map()
    );
    return 'series' in answer ? { ...answer, partial: cached.partial } : answer;
  } catch (error) {
    if (!(error instanceof Refusal)) throw error;
    return problemOf(error);
  }
}

const gridOf = ({ start, step, count }: QueryAnswer): Grid => ({ start, step: step as Duration, count });
