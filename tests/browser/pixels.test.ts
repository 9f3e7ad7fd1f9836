import { expect } from 'chai';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import type { Browser, Page } from 'playwright-core';
import { drawnCells } from '../../src/lib/core/series';
import { openBrowser } from '../support/chromium';

/** Pixels of the drawing, and how high it is. */
const columns = 600;
const height = 240;
/** A pixel counts as drawn when it is at least half covered. */
const inked = 128;

describe('a line through fewer cells, as Chromium draws it', () => {
  let browser: Browser;
  let page: Page;

  before(async function () {
    this.timeout(60_000);
    browser = await openBrowser();
    page = await (await browser.newContext({ deviceScaleFactor: 1 })).newPage();
    await page.setContent('<body style="margin:0"></body>');
    await page.addScriptTag({
      path: join(dirname(createRequire(import.meta.url).resolve('chart.js')), 'chart.umd.js')
    });
  });
  after(() => browser.close());

  /** Draws cells as the application's charts do, and gives the alpha of each pixel. */
  const drawn = (values: Float64Array, cells: readonly number[]): Promise<number[]> =>
    page.evaluate(
      ({ points, columns, height, count }) => {
        const canvas = document.body.appendChild(document.createElement('canvas'));
        canvas.width = columns;
        canvas.height = height;
        const { Chart } = globalThis as never as { Chart: new (on: unknown, config: unknown) => { destroy(): void } };
        const chart = new Chart(canvas, {
          type: 'line',
          data: { datasets: [{ data: points, borderColor: '#000', borderWidth: 1.5, pointRadius: 0 }] },
          options: {
            animation: false,
            responsive: false,
            parsing: false,
            normalized: true,
            spanGaps: false,
            devicePixelRatio: 1,
            events: [],
            layout: { padding: 0, autoPadding: false },
            plugins: { legend: { display: false }, tooltip: { enabled: false } },
            scales: {
              x: { type: 'linear', display: false, min: 0, max: count },
              y: { display: false, min: -1.2, max: 1.2 }
            }
          }
        });
        const image = (canvas.getContext('2d') as CanvasRenderingContext2D).getImageData(0, 0, columns, height).data;
        chart.destroy();
        canvas.remove();
        return Array.from({ length: columns * height }, (_, i) => image[i * 4 + 3] as number);
      },
      {
        points: cells.map((x) => ({ x, y: values[x] as number })),
        columns,
        height,
        count: values.length
      }
    );

  /** Pixels drawn in one picture with nothing drawn in the other on them or beside them: edges are smoothed, so that a line may lean over by less than a pixel. */
  function strays(one: readonly number[], other: readonly number[]): string[] {
    const found: string[] = [];
    for (let y = 0; y < height; y++)
      for (let x = 0; x < columns; x++) {
        if ((one[y * columns + x] as number) < inked) continue;
        const near = [-1, 0, 1].some((dy) =>
          [-1, 0, 1].some((dx) => {
            const [nx, ny] = [x + dx, y + dy];
            return (
              nx >= 0 && nx < columns && ny >= 0 && ny < height && (other[ny * columns + nx] as number) >= inked / 4
            );
          })
        );
        if (!near) found.push(`${x} ${y}`);
      }
    return found;
  }

  const shapes: Record<string, (i: number) => number> = {
    'a slow wave': (i) => Math.sin(i / 900),
    'noise on a wave': (i) => 0.7 * Math.sin(i / 2000) + 0.3 * (((i * 7919) % 1009) / 504.5 - 1),
    'lonely peaks': (i) => (i % 3511 === 17 ? 1 : -0.9),
    'gaps and steps': (i) => (Math.floor(i / 700) % 5 === 3 ? NaN : (Math.floor(i / 450) % 4) / 2 - 0.8)
  };

  for (const [name, of] of Object.entries(shapes))
    it(`is drawn where a line through all cells is, and nowhere else: ${name}`, async () => {
      const values = Float64Array.from({ length: 21_600 }, (_, i) => of(i));
      const needed = [...drawnCells(values, columns)];
      expect(needed.length).to.be.below(values.length / 4);
      const whole = await drawn(values, [...values.keys()]);
      const few = await drawn(values, needed);
      const pixels = whole.filter((alpha) => alpha >= inked).length;
      expect(pixels, 'pixels drawn').to.be.above(columns);
      // The smoothed tip of a spike may fall short by a pixel; a lost peak or gap would be hundreds.
      expect(strays(whole, few).length).to.be.at.most(pixels / 5000);
      expect(strays(few, whole).length).to.be.at.most(pixels / 5000);
    }).timeout(60_000);

  it('which a line through every so many cells does not', async () => {
    const values = Float64Array.from({ length: 21_600 }, (_, i) =>
      (shapes['lonely peaks'] as (i: number) => number)(i)
    );
    const cells = [...values.keys()];
    const whole = await drawn(values, cells);
    const thinned = await drawn(
      values,
      cells.filter((cell) => cell % 18 === 0)
    );
    expect(strays(whole, thinned).length).to.be.above(100);
  }).timeout(60_000);
});
