import type { AnswerSeries, QueryAnswer } from '../series';
import { valuesOf } from '../series';
import { cellStart, duration, gridEnd, minute, type Grid, type Instant } from '../time';
import type { Reduction } from './pictures';

/**
 * One figure of a series' cells; gaps are left out.
 *
 * @param complete how many cells are complete: figures are of these alone, so that a cell still filling is not taken for a fall
 * @returns NaN when no cell has a value
 * @example figureOf(Float64Array.of(1, NaN, 3), 'avg', 3) // 2
 */
export function figureOf(values: Float64Array, reduce: Reduction, complete: number): number {
  if (reduce === 'last') return values[newestCell(values, complete)] ?? NaN;
  let [sum, count, least, most] = [0, 0, Infinity, -Infinity];
  for (const value of values.subarray(0, complete)) {
    if (Number.isNaN(value)) continue;
    sum += value;
    count++;
    if (value < least) least = value;
    if (value > most) most = value;
  }
  if (count === 0) return NaN;
  switch (reduce) {
    case 'avg':
      return sum / count;
    case 'sum':
      return sum;
    case 'min':
      return least;
    case 'max':
      return most;
    default:
      return reduce satisfies never;
  }
}

/** The newest complete cell that has a value; -1 when none has. */
function newestCell(values: Float64Array, complete: number): number {
  let cell = Math.min(complete, values.length) - 1;
  while (cell >= 0 && Number.isNaN(values[cell])) cell--;
  return cell;
}

/** A series with its one figure. */
export interface Figure {
  readonly series: AnswerSeries;
  /** Of complete cells; what still fills is a gap. */
  readonly values: Float64Array;
  readonly figure: number;
  /** Until when a last figure is known, where that is longer ago than people take it for; null where it is of the end of what was asked, and for figures of all cells. */
  readonly asOf: Instant | null;
}

/** The values of a series without those of cells that still fill: a sum over some of its parts looks like a fall. */
export const completeValues = (series: Pick<AnswerSeries, 'values' | 'complete'>): Float64Array =>
  valuesOf(series).map((value, cell) => (cell < series.complete ? value : NaN));

/** How long before the end of what was asked, or before now, a last figure may be without its time beside it, ms. */
const stillFresh = 15 * minute;

/** Milliseconds without a sample, while others go on, after which a series has stopped. */
const usualSilence = 600_000;

/** Series whose newest sample begins before this have stopped, as measured against the newest of all in the answer. */
function stoppedBefore({ series, step }: QueryAnswer, silence: number): number {
  const newest = series.reduce((most, { newest: at }) => Math.max(most, at ?? 0), 0);
  return newest - Math.max(silence, 2 * step);
}

/**
 * Every series with its figure, highest first. For the last figure, series that have stopped are left out: they are not "now".
 *
 * @param silence milliseconds without a sample after which a series has stopped
 */
export function figuresOf(answer: QueryAnswer, reduce: Reduction, silence = usualSilence): Figure[] {
  const { start, step, count, calendar } = answer;
  const grid: Grid = { start, step: duration(step), count, ...(calendar ? { calendar } : {}) };
  const end = Math.min(answer.now, gridEnd(grid)); // of a range that is over, its end
  const stopped = stoppedBefore(answer, silence);
  return answer.series
    .filter(({ newest: at }) => reduce !== 'last' || at === null || at >= stopped)
    .map((series) => {
      const all = valuesOf(series);
      const cell = reduce === 'last' ? newestCell(all, series.complete) : -1;
      const until = cellStart(grid, cell + 1);
      return {
        series,
        values: completeValues(series),
        figure: figureOf(all, reduce, series.complete),
        asOf: cell >= 0 && end - until > stillFresh ? until : null
      };
    })
    .filter(({ figure }) => !Number.isNaN(figure))
    .sort((a, b) => b.figure - a.figure);
}

/** A row of a snapshot list: what the columns say of one resource, or of one set of labels. */
export interface SnapshotRow {
  readonly key: string;
  readonly name: string;
  readonly resourceId: number;
  readonly account: string;
  /** One for each column; null where the column has nothing of it. */
  readonly cells: readonly (Figure | null)[];
  /** Start of its newest sample when it has stopped in every column while others go on; null while it reports. */
  readonly silentSince: Instant | null;
}

/**
 * The rows of a snapshot list. Columns meet in the resource; a series that is of no resource is a row by its name. What has stopped keeps its row: it is what people look for.
 *
 * @param answers one for each column; null for one that is not there yet
 */
export function snapshotRows(
  answers: readonly (QueryAnswer | null)[],
  reductions: readonly Reduction[]
): SnapshotRow[] {
  const rows = new Map<
    string,
    { -readonly [Part in keyof SnapshotRow]: SnapshotRow[Part] } & { cells: (Figure | null)[] }
  >();
  const reporting = new Set<string>();
  for (const [column, answer] of answers.entries()) {
    if (answer === null) continue;
    const several = moreThanOnce(answer.series.map(({ resourceId }) => resourceId));
    const reduce = reductions[column] ?? 'last';
    const figures = new Map(figuresOf(answer, reduce, Infinity).map((figure) => [figure.series, figure]));
    const stopped = stoppedBefore(answer, usualSilence);
    for (const series of [...figures.keys(), ...answer.series.filter((one) => !figures.has(one))]) {
      const { resourceId, resource, name, account, newest } = series;
      const figure = figures.get(series) ?? null;
      const isStopped = newest !== null && newest < stopped;
      if (figure === null && !isStopped) continue; // never reported, or has only gaps
      const own = resourceId === 0 || several.has(resourceId);
      const key = own ? `${resourceId} ${name}` : `${resourceId}`;
      const row = rows.get(key) ?? {
        key,
        name: own ? name : resource,
        resourceId,
        account,
        cells: answers.map((): Figure | null => null),
        silentSince: null
      };
      row.cells[column] = figure;
      if (!isStopped) reporting.add(key);
      else row.silentSince = Math.max(row.silentSince ?? 0, newest) as Instant;
      rows.set(key, row);
    }
  }
  const all = [...rows.values()];
  // Resources of one name in several accounts are told apart by their account.
  const names = moreThanOnce(all.map(({ name }) => name));
  return all.map((row) => ({
    ...row,
    name: names.has(row.name) && row.account !== '' ? `${row.name}, ${row.account}` : row.name,
    silentSince: reporting.has(row.key) ? null : row.silentSince
  }));
}

const moreThanOnce = <Item>(ids: readonly Item[]): Set<Item> => {
  const seen = new Set<Item>();
  const twice = new Set<Item>();
  for (const id of ids) (seen.has(id) ? twice : seen).add(id);
  return twice;
};

/**
 * Rows sorted by a column, those without a figure last; by name where figures are equal.
 *
 * @example sortedRows(rows, { column: 0, direction: 'highest' })
 */
export const sortedRows = (
  rows: readonly SnapshotRow[],
  sort: { readonly column: number; readonly direction: 'highest' | 'lowest' } | undefined
): SnapshotRow[] => {
  const byName = (a: SnapshotRow, b: SnapshotRow) => a.name.localeCompare(b.name, 'en', { numeric: true });
  if (!sort) return [...rows].sort(byName);
  const sign = sort.direction === 'highest' ? -1 : 1;
  const of = (row: SnapshotRow) => row.cells[sort.column]?.figure ?? NaN;
  return [...rows].sort((a, b) => {
    const [x, y] = [of(a), of(b)];
    if (Number.isNaN(x) || Number.isNaN(y)) return Number(Number.isNaN(x)) - Number(Number.isNaN(y)) || byName(a, b);
    return sign * (x - y) || byName(a, b);
  });
};

/** One span of values and how many cells lie in it: [from, to), the last one with its end. */
export interface Bin {
  readonly from: number;
  readonly to: number;
  readonly count: number;
}

/**
 * How many values lie in each of some spans of equal width between the lowest and the highest.
 *
 * @returns no bins when there is no value; one when all are equal
 * @example histogramOf([Float64Array.of(0, 1, 2, 4)], 2).map(({ count }) => count) // [2, 2]
 */
export function histogramOf(columns: readonly Float64Array[], bins: number): Bin[] {
  let [least, most, count] = [Infinity, -Infinity, 0];
  for (const values of columns)
    for (const value of values) {
      if (Number.isNaN(value)) continue;
      count++;
      if (value < least) least = value;
      if (value > most) most = value;
    }
  if (count === 0) return [];
  const width = (most - least) / bins;
  if (!(width > 0)) return [{ from: least, to: most, count }]; // all alike, or as good as
  const counts = new Array<number>(bins).fill(0);
  for (const values of columns)
    for (const value of values)
      if (!Number.isNaN(value)) {
        const bin = Math.min(bins - 1, Math.floor((value - least) / width));
        counts[bin] = (counts[bin] as number) + 1;
      }
  return counts.map((count, bin) => ({
    from: least + bin * width,
    to: bin === bins - 1 ? most : least + (bin + 1) * width,
    count
  }));
}
