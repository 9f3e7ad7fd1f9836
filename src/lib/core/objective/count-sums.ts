/** What happened in a span: how much there was in all, and how much of it was bad. */
export interface SpanCounts {
  readonly all: number;
  readonly bad: number;
}

/**
 * Running sums of what was good and what there was in all, cell by cell: any span of cells is answered at once. A cell where either is a gap (NaN), or that is left out, counts for
 * nothing; more good than all counts as all good.
 *
 * @example new CountSums([9, 10], [10, 10]).between(0, 2) // { all: 20, bad: 1 }
 */
export class CountSums {
  readonly #all: Float64Array;
  readonly #bad: Float64Array;

  /**
   * @param good one number a cell
   * @param all one number a cell, as many
   * @param isLeftOut whether a cell is left out, such as of planned maintenance
   * @throws RangeError when there are not as many
   */
  constructor(good: ArrayLike<number>, all: ArrayLike<number>, isLeftOut: (cell: number) => boolean = () => false) {
    if (good.length !== all.length)
      throw new RangeError(
        `CountSums: expected as many good cells as cells in all, got ${good.length} and ${all.length}`
      );
    this.#all = new Float64Array(all.length + 1);
    this.#bad = new Float64Array(all.length + 1);
    for (let cell = 0; cell < all.length; cell++) {
      const [there, fine] = [all[cell] as number, good[cell] as number];
      const counts = Number.isFinite(there) && Number.isFinite(fine) && there > 0 && !isLeftOut(cell);
      this.#all[cell + 1] = (this.#all[cell] as number) + (counts ? there : 0);
      this.#bad[cell + 1] = (this.#bad[cell] as number) + (counts ? Math.max(0, there - fine) : 0);
    }
  }

  /** Cells that there are. */
  get cells(): number {
    return this.#all.length - 1;
  }

  /** What is in the cells from one on, up to but without another; what lies beyond the ends counts for nothing. */
  between(from: number, to: number): SpanCounts {
    const [first, last] = [from, to].map((cell) => Math.min(this.cells, Math.max(0, cell))) as [number, number];
    if (last <= first) return { all: 0, bad: 0 };
    return {
      all: (this.#all[last] as number) - (this.#all[first] as number),
      bad: (this.#bad[last] as number) - (this.#bad[first] as number)
    };
  }
}
