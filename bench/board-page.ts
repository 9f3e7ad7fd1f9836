// A board of many series as the real browser draws it, and the same samples handed to Chart.js whole.
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import type { Page } from 'playwright-core';
import type { RunningApp } from '../tests/support/app';

/** The signal of one metric. */
export const signalOf = (metric: string, step: string) => ({
  version: 2,
  rows: [{ name: 'a', metric, where: [], statistic: 'avg' }],
  step
});

/** Metrics `metric.1`, `metric.2` and so on, each of so many machines. @returns their series, those of a metric together */
export async function seriesFor(
  { db }: RunningApp,
  metrics: number,
  machines: number,
  samplingMs: number
): Promise<{ id: number; accountId: number }[]> {
  await db.rows(
    `insert into resources (account_id, provider_id, name, type, service, region, tags, first_seen_at, last_seen_at)
     select accounts.id, 'r' || i, 'machine-' || i, 'machine', 'machines', 'perla-' || i % 3, '{}', 1, 1
     from accounts, generate_series(1, $1::integer) as i`,
    [machines]
  );
  await db.rows(
    `insert into metrics (provider, account_id, name, title, description, unit, kind, shape, resource_type, service, sampling_ms, delay_ms)
     select 'pushed', accounts.id, 'metric.' || i, 'Metric ' || i, '', '1', 'gauge', 'single', 'machine', 'machines', $2, 0
     from accounts, generate_series(1, $1::integer) as i`,
    [metrics, samplingMs]
  );
  return db.rows<{ id: number; accountId: number }>(
    `insert into series (account_id, resource_id, metric, labels)
     select account_id, resources.id, 'metric.' || metric, '{}'
     from resources, generate_series(1, $1::integer) as metric
     returning id, account_id as "accountId"`,
    [metrics]
  );
}

/** Makes a board with a panel of lines for each signal. @returns its id */
export async function makeBoard({ origin }: RunningApp, page: Page, signals: readonly object[]): Promise<number> {
  const all = signals.map((signal, i) => ({
    id: `p${i}`,
    title: `Panel ${i}`,
    picture: 'lines',
    signal,
    place: { x: (i % 3) * 4, y: Math.floor(i / 3) * 3, w: 4, h: 3 }
  }));
  const response = await page.request.post(`${origin}/api/v1/boards`, {
    data: { title: 'Large', pickers: [], sections: [], panels: all }
  });
  if (!response.ok()) throw new Error(`the board was refused: ${await response.text()}`);
  return ((await response.json()) as { id: number }).id;
}

/** Milliseconds from the start of a navigation until every panel has its chart and table. */
export async function drawnIn(page: Page, address: string, panels: number): Promise<number> {
  await page.bringToFront();
  await page.goto('about:blank');
  await page.goto(address, { waitUntil: 'commit' });
  const handle = await page.waitForFunction(
    (wanted) => {
      const drawn = document.querySelectorAll('section.panel canvas').length;
      return (
        drawn === wanted && document.querySelectorAll('section.panel tbody tr').length >= wanted && performance.now()
      );
    },
    panels,
    { polling: 'raf', timeout: 60_000 }
  );
  return Number(await handle.jsonValue());
}

/** Milliseconds until the same samples, fetched whole, are drawn by Chart.js with its own decimation. */
export async function handedWhole(
  page: Page,
  { origin, clock }: RunningApp,
  signals: readonly object[],
  lengthMs: number
): Promise<number> {
  await page.bringToFront();
  await page.goto(`${origin}/healthz`);
  const chart = dirname(createRequire(import.meta.url).resolve('chart.js'));
  await page.addScriptTag({ path: join(chart, 'chart.umd.js') });
  const to = clock.now();
  const body = {
    signals,
    from: new Date(to - lengthMs).toISOString(),
    to: new Date(to).toISOString()
  };
  return page.evaluate(async (asked) => {
    const began = performance.now();
    const response = await fetch('/api/v1/queries', {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify(asked)
    });
    const answers = (await response.json()) as { start: number; step: number; series: { values: number[] }[] }[];
    if (answers.some(({ series }) => series === undefined)) throw new Error(JSON.stringify(answers).slice(0, 500));
    const { Chart } = globalThis as never as { Chart: new (on: unknown, config: unknown) => unknown };
    document.body.replaceChildren();
    for (const { start, step, series } of answers) {
      const box = document.body.appendChild(document.createElement('div'));
      box.style.cssText = 'width:330px;height:110px;position:relative';
      new Chart(box.appendChild(document.createElement('canvas')), {
        type: 'line',
        data: {
          datasets: series.map(({ values }) => ({
            data: values.map((y, i) => ({ x: start + i * step, y })),
            pointRadius: 0,
            borderWidth: 1 // as the application draws so many
          }))
        },
        options: {
          animation: false,
          parsing: false,
          normalized: true,
          maintainAspectRatio: false,
          plugins: { legend: { display: false }, decimation: { enabled: true, algorithm: 'min-max' } },
          scales: { x: { type: 'linear' } }
        }
      });
    }
    await new Promise(requestAnimationFrame);
    return performance.now() - began;
  }, body);
}
