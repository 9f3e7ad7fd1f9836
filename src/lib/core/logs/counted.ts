import { deviationOf, quantileIn, quantileOf } from '../series';
import { cellAt, type Grid } from '../time';

/** What is made of a numeric field of lines in each cell. */
export const fieldStatistics = ['avg', 'sum', 'min', 'max', 'median', 'p75', 'p90', 'p95', 'p99', 'stddev'] as const;
export type FieldStatistic = (typeof fieldStatistics)[number];

/** Lines of one group of values, cell by cell. */
export interface CountedGroup {
  /** The values by which lines are told apart, empty where a line has none; null for what is left of groups that are not told apart. */
  readonly values: readonly string[] | null;
  /** Lines, or the statistic of the field; a cell without a number is NaN. */
  readonly cells: Float64Array;
  /** Lines that are counted in it. */
  readonly lines: number;
}

/** Groups that are told apart while counting, cells of all of them together, and numbers that are held for percentiles. */
const mostTold = 2000;
const mostCells = 4_000_000;
const mostNumbers = 2_000_000;
/** Characters of a value that are looked at. */
const longestValue = 200;

/** What has been added up of one group. */
interface Sums {
  readonly values: readonly string[] | null;
  lines: number;
  readonly count: Float64Array;
  readonly sum: Float64Array;
  /** What sums lost by rounding (Neumaier 1974). */
  readonly lost: Float64Array;
  readonly min: Float64Array;
  readonly max: Float64Array;
  readonly numbers: number[][];
}

/**
 * Adds lines up cell by cell, apart by the values of some fields: how many there are, or a statistic of a numeric field. What is beyond the most groups goes together.
 *
 * @example const cells = new LineCells(grid, null, 100); cells.add(at, ['error'], 1, NaN); cells.groups(1)
 */
export class LineCells {
  readonly #grid: Grid;
  readonly #statistic: FieldStatistic | null;
  readonly #most: number;
  readonly #told: number;
  readonly #groups = new Map<string, Sums>();
  #others: Sums | null = null;
  #numbers = 0;

  /**
   * @param statistic null counts lines
   * @param most groups that are told apart in the end, those of the most lines
   */
  constructor(grid: Grid, statistic: FieldStatistic | null, most: number) {
    this.#grid = grid;
    this.#statistic = statistic;
    this.#most = most;
    // Five columns of cells for each group where a field is wanted, one where lines are counted.
    const each = (statistic === null ? 1 : 5) * Math.max(1, grid.count);
    this.#told = Math.max(1, Math.min(mostTold, Math.floor(mostCells / each)));
  }

  /** Whether there were more numbers than are held: percentiles are of those that came first. */
  get isPartial(): boolean {
    return this.#needsNumbers && this.#numbers >= mostNumbers;
  }

  /**
   * @param values by which lines are told apart, in order
   * @param lines how many are alike, all of this moment's cell
   * @param number of the field; NaN where a line has none, which is not counted where a field is wanted
   */
  add(at: number, values: readonly string[], lines: number, number: number): void {
    const cell = cellAt(this.#grid, at);
    if (cell < 0 || cell >= this.#grid.count) return;
    if (this.#statistic !== null && Number.isNaN(number)) return;
    const sums = this.#sumsOf(values.map((value) => value.slice(0, longestValue)));
    sums.lines += lines;
    sums.count[cell] = (sums.count[cell] ?? 0) + lines;
    if (this.#statistic === null) return;
    addTo(sums, cell, number);
    if (!(number >= (sums.min[cell] as number))) sums.min[cell] = number;
    if (!(number <= (sums.max[cell] as number))) sums.max[cell] = number;
    if (!this.#needsNumbers || this.#numbers >= mostNumbers) return;
    this.#numbers++;
    (sums.numbers[cell] ??= []).push(number);
  }

  /** The groups of the most lines, those first; what is left goes together in the last one. */
  groups(): CountedGroup[] {
    const sorted = [...this.#groups.values()].sort(
      (a, b) => b.lines - a.lines || (String(a.values) < String(b.values) ? -1 : 1)
    );
    const told = sorted.slice(0, this.#most);
    const left = [...sorted.slice(this.#most), ...(this.#others === null ? [] : [this.#others])];
    const all = told.map((sums) => this.#group(sums));
    return left.length === 0 ? all : [...all, this.#group(this.#together(left))];
  }

  get #needsNumbers(): boolean {
    return this.#statistic === 'stddev' || (this.#statistic !== null && quantileOf(this.#statistic) !== undefined);
  }

  #sumsOf(values: readonly string[]): Sums {
    const key = values.length === 1 ? (values[0] as string) : JSON.stringify(values);
    const known = this.#groups.get(key);
    if (known !== undefined) return known;
    if (this.#groups.size >= this.#told) return (this.#others ??= this.#empty(null));
    const made = this.#empty(values);
    this.#groups.set(key, made);
    return made;
  }

  #empty(values: readonly string[] | null): Sums {
    const { count } = this.#grid;
    const cells = () => new Float64Array(this.#statistic === null ? 0 : count);
    return {
      ...{ values, lines: 0, count: new Float64Array(count), numbers: [] },
      ...{ sum: cells(), lost: cells() },
      ...{ min: cells().fill(NaN), max: cells().fill(NaN) }
    };
  }

  #together(all: readonly Sums[]): Sums {
    const whole = this.#empty(null);
    for (const one of all) {
      whole.lines += one.lines;
      for (let cell = 0; cell < this.#grid.count; cell++) {
        whole.count[cell] = (whole.count[cell] as number) + (one.count[cell] as number);
        if (this.#statistic === null) continue;
        addTo(whole, cell, one.sum[cell] as number);
        addTo(whole, cell, one.lost[cell] as number);
        const [min, max] = [one.min[cell] as number, one.max[cell] as number];
        if (min < (whole.min[cell] as number) || Number.isNaN(whole.min[cell])) whole.min[cell] = min;
        if (max > (whole.max[cell] as number) || Number.isNaN(whole.max[cell])) whole.max[cell] = max;
        const numbers = one.numbers[cell];
        if (numbers !== undefined) whole.numbers[cell] = [...(whole.numbers[cell] ?? []), ...numbers];
      }
    }
    return whole;
  }

  #group({ values, lines, count, sum, lost, min, max, numbers }: Sums): CountedGroup {
    const cells = (of: (cell: number) => number): Float64Array =>
      Float64Array.from(count, (has, cell) => (has === 0 ? NaN : of(cell)));
    const numbersOf = (cell: number) => Float64Array.from(numbers[cell] ?? []);
    const statistic = this.#statistic;
    const made = (): Float64Array => {
      switch (statistic) {
        case null:
          return count;
        case 'sum':
          return cells((cell) => (sum[cell] as number) + (lost[cell] as number));
        case 'avg':
          return cells((cell) => ((sum[cell] as number) + (lost[cell] as number)) / (count[cell] as number));
        case 'min':
          return cells((cell) => min[cell] as number);
        case 'max':
          return cells((cell) => max[cell] as number);
        case 'stddev':
          return cells((cell) => deviationOf(numbersOf(cell)));
        case 'median':
        case 'p75':
        case 'p90':
        case 'p95':
        case 'p99':
          return cells((cell) =>
            (numbers[cell]?.length ?? 0) === 0 ? NaN : quantileIn(numbersOf(cell), quantileOf(statistic) as number)
          );
        default:
          throw new RangeError(`LineCells: no statistic "${String(statistic satisfies never)}"`);
      }
    };
    return { values, cells: made(), lines };
  }
}

function addTo({ sum, lost }: Sums, cell: number, number: number): void {
  const known = sum[cell] as number;
  const next = known + number;
  lost[cell] =
    (lost[cell] as number) + (Math.abs(known) >= Math.abs(number) ? known - next + number : number - next + known);
  sum[cell] = next;
}
