/**
 * Which cells of a column a picture needs: when there are more than it has pixels, of each pixel column the first, the lowest, the highest and the last cell of
 * each stretch without gaps, and one cell of each gap. A line through them covers the same pixels as a line through all (the reduction M4 of Jugel, Jerzak,
 * Hackenbroich and Markl 2014, per stretch).
 *
 * @param values one for each cell, gaps NaN
 * @param columns pixel columns over which the cells are spread evenly; below 1 all cells are needed
 * @returns rising indices; all of them when there are at most four cells a pixel
 * cost: O(cells)
 * @example drawnCells(Float64Array.of(0, 5, 1, 9, 2, 3, 4, 0, 7, 1), 1) // [0, 3, 9]
 */
export function drawnCells(values: Float64Array, columns: number): Int32Array {
  const { length } = values;
  if (columns < 1 || length <= 4 * columns) return Int32Array.from({ length }, (_, cell) => cell);
  const kept: number[] = [];
  let from = 0;
  for (let column = 0; column < columns; column++) {
    const end = Math.ceil(((column + 1) * length) / columns);
    for (let cell = from; cell < end;) {
      let to = cell + 1;
      const isGap = Number.isNaN(values[cell]);
      while (to < end && Number.isNaN(values[to]) === isGap) to++;
      if (isGap) kept.push(cell);
      else keepStretch(values, cell, to, kept);
      cell = to;
    }
    from = end;
  }
  return Int32Array.from(kept);
}

/** First, lowest, highest and last of [from, to), each once, in order. */
function keepStretch(values: Float64Array, from: number, to: number, kept: number[]): void {
  let lowest = from;
  let highest = from;
  for (let cell = from + 1; cell < to; cell++) {
    if ((values[cell] as number) < (values[lowest] as number)) lowest = cell;
    if ((values[cell] as number) > (values[highest] as number)) highest = cell;
  }
  const some = [from, Math.min(lowest, highest), Math.max(lowest, highest), to - 1];
  for (const [place, cell] of some.entries()) if (place === 0 || cell !== some[place - 1]) kept.push(cell);
}
