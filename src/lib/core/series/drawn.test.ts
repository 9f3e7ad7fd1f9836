import { expect } from 'chai';
import fc from 'fast-check';
import { drawnCells } from './index';

/** Pixels that a line through some cells of a column covers: of each pixel column, every row between the lowest and the highest point of each piece in it. */
function pixelsOf(values: Float64Array, cells: Iterable<number>, columns: number, rows: number): Set<string> {
  const covered = new Set<string>();
  const widthOfCell = columns / values.length;
  const columnOf = (cell: number) => Math.min(columns - 1, Math.floor(cell * widthOfCell));
  const paint = (column: number, one: number, other: number) => {
    const [low, high] = [one, other].map((y) => Math.floor(y * rows)).sort((a, b) => a - b) as [number, number];
    for (let row = low; row <= high; row++) covered.add(`${column} ${row}`);
  };
  let before: number | null = null;
  for (const cell of cells) {
    const y = values[cell] as number;
    if (Number.isNaN(y)) {
      before = null;
      continue;
    }
    if (before === null) paint(columnOf(cell), y, y);
    else {
      const [x0, x1, y0] = [before * widthOfCell, cell * widthOfCell, values[before] as number];
      for (let column = columnOf(before); column <= columnOf(cell); column++) {
        const at = (x: number) => y0 + (y - y0) * Math.min(1, Math.max(0, (x - x0) / (x1 - x0)));
        paint(column, at(Math.max(x0, column)), at(Math.min(x1, column + 1)));
      }
    }
    before = cell;
  }
  return covered;
}

describe('the cells that a picture needs', () => {
  it('cover the same pixels as all cells, gaps too', () => {
    const value = fc.oneof(
      { weight: 8, arbitrary: fc.double({ min: 0, max: 0.999, noNaN: true }) },
      { weight: 1, arbitrary: fc.constant(NaN) }
    );
    fc.assert(
      fc.property(fc.array(value, { maxLength: 400 }), fc.integer({ min: 1, max: 20 }), (list, columns) => {
        const values = Float64Array.from(list);
        const all = values.keys();
        const needed = drawnCells(values, columns);
        expect(pixelsOf(values, needed, columns, 50)).to.deep.equal(pixelsOf(values, all, columns, 50));
      }),
      { numRuns: 500 }
    );
  });

  it('are at most four of each pixel column where nothing is missing, and never lose a peak', () => {
    const values = Float64Array.from({ length: 100_000 }, (_, i) => (i === 77_777 ? 1e6 : Math.sin(i)));
    const needed = drawnCells(values, 500);
    expect(needed.length).to.be.at.most(2000);
    expect([...needed]).to.include(77_777);
    expect(needed.every((cell, i) => i === 0 || cell > (needed[i - 1] as number))).to.equal(true);
  });

  it('are all when there is room; has the example of its documentation', () => {
    expect([...drawnCells(Float64Array.of(1, NaN, 2), 3)]).to.deep.equal([0, 1, 2]);
    expect([...drawnCells(Float64Array.of(1, 2, 3), 0)]).to.deep.equal([0, 1, 2]);
    expect([...drawnCells(Float64Array.of(), 10)]).to.deep.equal([]);
    expect([...drawnCells(Float64Array.of(0, 5, 1, 9, 2, 3, 4, 0, 7, 1), 1)]).to.deep.equal([0, 3, 9]);
  });
});
