import { expect } from 'chai';
import type { Browser, Page } from 'playwright-core';
import { drawnCells } from '../../src/lib/core/series';
import { drawCells, drawCourse, straight, type Course } from '../../src/lib/ui/chart/course';
import { openBrowser } from '../support/chromium';

/** Pixels of the drawing, and how high it is. */
const columns = 600;
const height = 240;
/** A pixel counts as drawn when it is at least half covered, and as touched from an eighth on. */
const [inked, touched] = [128, 32];

describe('a line through fewer cells, as Chromium draws it', () => {
  let browser: Browser;
  let page: Page;

  before(async function () {
    this.timeout(180_000);
    browser = await openBrowser();
    page = await (await browser.newContext({ deviceScaleFactor: 1 })).newPage();
    await page.setContent('<body style="margin:0"></body>');
    await page.evaluate('globalThis.__name = (of) => of'); // what the compiler of the tests wraps named functions in
    // What draws the application's charts, as it is.
    await page.addScriptTag({ content: `${straight.toString()}\n${drawCells.toString()}\n${drawCourse.toString()}` });
  });
  after(() => browser.close());

  /**
   * Draws two lines as the application's charts do: through all values, and through some cells. Counts the pixels of the first, and those of either that have nothing of the other
   * on them or beside them: edges are smoothed, so that a line may lean over by less than a pixel.
   */
  const compared = (values: Float64Array, cells: readonly number[], width: number) =>
    page.evaluate(
      ({ values, cells, width, columns, height, inked, touched }) => {
        const { drawCourse: drawAs } = globalThis as never as { drawCourse: typeof drawCourse };
        const column = Float64Array.from(values, (value) => value ?? NaN);
        const ruler = (min: number, max: number, from: number, to: number) => ({
          min,
          max,
          type: 'linear',
          getPixelForValue: (value: number) => from + ((value - min) / (max - min)) * (to - from)
        });
        const draw = (cells: readonly number[]): Uint8ClampedArray => {
          const canvas = document.body.appendChild(document.createElement('canvas'));
          canvas.width = columns;
          canvas.height = height;
          const pen = canvas.getContext('2d') as CanvasRenderingContext2D;
          const at = Float64Array.from(column.keys());
          const course: Course = {
            at,
            values: column,
            cells,
            colour: '#000',
            width,
            dash: [],
            fill: null,
            complete: Infinity,
            floor: null
          };
          drawAs(pen, course, ruler(0, values.length, 0, columns), ruler(-1.2, 1.2, height, 0));
          const { data: pixels } = pen.getImageData(0, 0, columns, height);
          canvas.remove();
          return pixels.filter((_, i) => i % 4 === 3);
        };
        const whole = draw([...values.keys()]);
        const few = draw(cells);
        const strays = (one: Uint8ClampedArray, other: Uint8ClampedArray): number => {
          const near = (x: number, y: number) =>
            x >= 0 && x < columns && y >= 0 && y < height && (other[y * columns + x] as number) >= touched;
          let count = 0;
          for (let y = 0; y < height; y++)
            for (let x = 0; x < columns; x++)
              if ((one[y * columns + x] as number) >= inked)
                count += [-1, 0, 1].some((dy) => [-1, 0, 1].some((dx) => near(x + dx, y + dy))) ? 0 : 1;
          return count;
        };
        return {
          pixels: whole.filter((alpha) => alpha >= inked).length,
          lost: strays(whole, few),
          added: strays(few, whole)
        };
      },
      {
        values: Array.from(values, (value) => (Number.isNaN(value) ? null : value)),
        cells,
        width,
        columns,
        height,
        inked,
        touched
      }
    );

  const shapes: Record<string, (i: number) => number> = {
    'a slow wave': (i) => Math.sin(i / 900),
    'noise on a wave': (i) => 0.7 * Math.sin(i / 2000) + 0.3 * (((i * 7919) % 1009) / 504.5 - 1),
    'lonely peaks': (i) => (i % 3511 === 17 ? 1 : -0.9),
    'gaps and steps': (i) => (Math.floor(i / 700) % 5 === 3 ? NaN : (Math.floor(i / 450) % 4) / 2 - 0.8)
  };

  const valuesOf = (of: (i: number) => number) => Float64Array.from({ length: 21_600 }, (_, i) => of(i));

  for (const [name, of] of Object.entries(shapes))
    it(`is drawn where a line through all cells is, and nowhere else: ${name}`, async () => {
      const values = valuesOf(of);
      const needed = [...drawnCells(values, columns)];
      expect(needed.length).to.be.below(values.length / 4);
      for (const width of [1.5, 1]) {
        const { pixels, lost, added } = await compared(values, needed, width);
        expect(pixels, `pixels drawn, ${width} wide`).to.be.above(columns);
        // The smoothed tip of a spike may fall short by a pixel; a lost peak or gap would be hundreds.
        expect(lost, `lost, ${width} wide`).to.be.at.most(pixels / 5000);
        expect(added, `added, ${width} wide`).to.be.at.most(pixels / 5000);
      }
    }).timeout(180_000);

  it('which a line through every so many cells does not', async () => {
    const values = valuesOf(shapes['lonely peaks'] as (i: number) => number);
    const { lost } = await compared(
      values,
      [...values.keys()].filter((cell) => cell % 18 === 0),
      1.5
    );
    expect(lost).to.be.above(100);
  }).timeout(180_000);
});
