import { firstAtOrAfter, type SummaryPoints } from './points';

/** Columns that grow: a series in memory. `length` of each column is in use; the rest is room. */
export class GrowingPoints implements SummaryPoints {
  at: Float64Array;
  sum: Float64Array;
  count: Float64Array;
  min: Float64Array;
  max: Float64Array;
  length = 0;

  constructor(room = 64) {
    this.at = new Float64Array(room);
    this.sum = new Float64Array(room);
    this.count = new Float64Array(room);
    this.min = new Float64Array(room);
    this.max = new Float64Array(room);
  }

  /**
   * Writes sorted points in. An instant that is already there is overwritten: the newest write wins.
   * Points after the last one, the usual case, are appended in O(new); earlier ones cost O(length).
   *
   * @param add columns sorted by instant, no instant twice
   * @returns how many points were new or changed a value
   * @example series.write(points) // 3
   */
  write(add: SummaryPoints): number {
    const added = add.at.length;
    if (added === 0) return 0;
    if (this.length === 0 || (add.at[0] as number) > (this.at[this.length - 1] as number)) {
      this.#makeRoom(this.length + added);
      for (const column of columns) this[column].set(add[column], this.length);
      this.length += added;
      return added;
    }
    return this.#weave(add);
  }

  /** What is in use, as views. */
  used(): SummaryPoints {
    const { length } = this;
    return {
      at: this.at.subarray(0, length),
      sum: this.sum.subarray(0, length),
      count: this.count.subarray(0, length),
      min: this.min.subarray(0, length),
      max: this.max.subarray(0, length)
    };
  }

  /** The index of a point at exactly this instant, or -1. */
  find(at: number): number {
    const index = firstAtOrAfter(this.at, this.length, at);
    return index < this.length && this.at[index] === at ? index : -1;
  }

  #weave(add: SummaryPoints): number {
    const start = firstAtOrAfter(this.at, this.length, add.at[0] as number);
    const tail = columnsCopy(this, start, this.length);
    this.#makeRoom(this.length + add.at.length);
    let changed = 0;
    let mine = 0;
    let theirs = 0;
    let end = start;
    while (mine < tail.at.length || theirs < add.at.length) {
      const a = mine < tail.at.length ? (tail.at[mine] as number) : Infinity;
      const b = theirs < add.at.length ? (add.at[theirs] as number) : Infinity;
      if (b <= a) {
        if (b < a || !samePoint(tail, mine, add, theirs)) changed++;
        if (b === a) mine++;
        this.#put(end++, add, theirs++);
      } else this.#put(end++, tail, mine++);
    }
    this.length = end;
    return changed;
  }

  #put(index: number, from: SummaryPoints, source: number): void {
    for (const column of columns) this[column][index] = from[column][source] as number;
  }

  #makeRoom(length: number): void {
    if (length <= this.at.length) return;
    const room = Math.max(length, this.at.length * 2);
    for (const column of columns) {
      const wider = new Float64Array(room);
      wider.set(this[column].subarray(0, this.length));
      this[column] = wider;
    }
  }
}

const columns = ['at', 'sum', 'count', 'min', 'max'] as const;

const columnsCopy = (points: SummaryPoints, from: number, to: number): SummaryPoints => ({
  at: points.at.slice(from, to),
  sum: points.sum.slice(from, to),
  count: points.count.slice(from, to),
  min: points.min.slice(from, to),
  max: points.max.slice(from, to)
});

/**
 * Whether two points have the same four values.
 *
 * @example samePoint(a, 0, a, 0) // true
 */
export const samePoint = (a: SummaryPoints, i: number, b: SummaryPoints, j: number): boolean =>
  a.sum[i] === b.sum[j] && a.count[i] === b.count[j] && a.min[i] === b.min[j] && a.max[i] === b.max[j];
