import type { Browser, CDPSession, Page } from 'playwright-core';
import { encodeBatch, pointsOfLength } from '../src/lib/core/series';
import { appendToJournal } from '../src/lib/server/store/journal';
import { makeKey } from '../src/lib/server/intake/receive/keys';
import { startApp, type RunningApp } from '../tests/support/app';
import { openBrowser } from '../tests/support/chromium';
import { signedIn } from '../tests/support/pages';
import { until } from '../tests/support/until';
import { drawnIn, handedWhole, makeBoard, seriesFor, signalOf } from './board-page';
import { middleOf, refuseErrors, type Measurement } from './measurement';

const panels = 24;
const seriesOfEach = 50;
const cells = 1440;
const rounds = 5;
const moves = 150;
const refreshes = 500;
const signals = Array.from({ length: panels }, (_, i) => signalOf(`metric.${i + 1}`, 'PT1M'));
const goals = { board: 1500, hover: 16, refresh: 10 };

/** What a measurement works with: the board opened in the real browser, served by the built application. */
interface Opened {
  readonly app: RunningApp;
  readonly page: Page;
  readonly session: CDPSession;
  readonly address: string;
  /** Pushes one more sample, as a program does. */
  readonly push: () => Promise<void>;
}

/** Makes a board of 24 panels with 50 series each over 24 hours, and measures with it. */
async function withBoard<Result>(measure: (opened: Opened) => Promise<Result>): Promise<Result> {
  const app = await startApp();
  let browser: Browser | null = null;
  try {
    const push = await fill(app);
    browser = await openBrowser();
    const { page } = await signedIn(browser, app, 'nerea');
    const errors: string[] = [];
    page.context().on('weberror', (error) => errors.push(error.error().message));
    await page.context().addInitScript('globalThis.__name = (of) => of');
    const id = await makeBoard(app, page, signals);
    await push();
    const session = await page.context().newCDPSession(page);
    await session.send('Performance.enable');
    const result = await measure({ app, page, session, address: `${app.origin}/boards/${id}?range=P1D`, push });
    refuseErrors(errors);
    return result;
  } finally {
    await browser?.close();
    await app.stop();
  }
}

/** How long until every panel is drawn, and how much script a frame takes while the pointer moves over a chart. */
export const uiBoard = (): Promise<Measurement[]> =>
  withBoard(async ({ app, page, session, address }) => {
    const took = { ours: [] as number[], theirs: [] as number[] };
    const another = await page.context().newPage(); // else one waits while the memory of the other is swept
    for (let round = 0; round < rounds; round++) {
      took.ours.push(await drawnIn(page, address, panels));
      took.theirs.push(await handedWhole(another, app, signals, 86_400_000));
    }
    await another.close();
    await drawnIn(page, address, panels);
    return [
      {
        name: 'ui.board',
        unit: 'ms until all is drawn',
        better: 'lower',
        ours: middleOf(took.ours),
        theirs: middleOf(took.theirs),
        alternative: 'the same samples handed to Chart.js whole, with its own decimation',
        note: `${panels} panels of ${seriesOfEach} series over 24 h, from navigation on; goal ${goals.board} ms`
      },
      {
        name: 'ui.hover',
        unit: 'ms of script a frame',
        better: 'lower',
        ours: await scriptAFrame(page, session),
        theirs: goals.hover,
        alternative: `the goal of ${goals.hover} ms`,
        note: `the pointer moves ${moves} times over a chart, the moment is shown on all ${panels}`
      }
    ];
  });

/** How much memory live refreshes leave behind. */
export const uiRefresh = (): Promise<Measurement> =>
  withBoard(async ({ page, session, address, push }) => {
    await drawnIn(page, address, panels);
    return {
      name: 'ui.refresh',
      unit: 'MB grown',
      better: 'lower',
      ours: Math.max(0.01, await grownBy(page, session, push)),
      theirs: goals.refresh,
      alternative: `the goal of ${goals.refresh} MB`,
      note: `${refreshes} live refreshes of the whole board, garbage collected before and after`
    };
  });

/** A workspace with a day of samples. @returns what pushes one more sample, as a program does */
async function fill(app: RunningApp): Promise<() => Promise<void>> {
  const { db, origin, clock } = app;
  const { text } = await db.transaction((within) =>
    makeKey(within, {
      name: 'large',
      expiresAt: null,
      mostSeries: 10_000,
      mostBytesADay: 1_000_000_000,
      createdAt: clock.now(),
      createdBy: 'bench'
    })
  );
  const series = await seriesFor(app, panels, seriesOfEach, 60_000);
  const end = Math.floor(clock.now() / 60_000) * 60_000;
  for (let from = 0; from < series.length; from += seriesOfEach) {
    const blocks = series.slice(from, from + seriesOfEach).map(({ id }) => {
      const points = pointsOfLength(cells);
      for (let i = 0; i < cells; i++) {
        points.at[i] = end - (cells - i) * 60_000;
        points.sum[i] = points.min[i] = points.max[i] = 50 + 30 * Math.sin(i / 90 + id) + ((i * id * 7919) % 100) / 10;
        points.count[i] = 1;
      }
      return { seriesId: id, points };
    });
    await appendToJournal(db, {
      accountId: series[0]?.accountId ?? 0,
      receivedAt: clock.now(),
      from: end - cells * 60_000,
      to: end,
      points: cells * blocks.length,
      bytes: encodeBatch(blocks)
    });
  }
  let count = 0;
  return async () => {
    const at = Math.floor(clock.now() / 1000) * 1000 - 86_400_000 * 2 + count++ * 1000;
    const response = await fetch(`${origin}/api/v1/receive/ndjson`, {
      method: 'POST',
      headers: { authorization: `Bearer ${text}`, 'content-type': 'application/x-ndjson' },
      body: JSON.stringify({ metric: 'pushed.once', at: new Date(at).toISOString(), value: count, resource: 'one' })
    });
    if (!response.ok) throw new Error(`ui.board: a sample was refused: ${await response.text()}`);
  };
}

/** Milliseconds of script for each frame while the pointer moves over the first chart. */
async function scriptAFrame(page: Page, session: CDPSession): Promise<number> {
  const box = (await page.locator('section.panel canvas').first().boundingBox()) ?? { x: 0, y: 0, width: 0, height: 0 };
  await page.evaluate(() => {
    const counter = globalThis as never as { frames: number };
    counter.frames = 0;
    const count = () => {
      counter.frames++;
      requestAnimationFrame(count);
    };
    requestAnimationFrame(count);
  });
  const before = await metricOf(session, 'ScriptDuration');
  for (let i = 0; i < moves; i++)
    await page.mouse.move(box.x + 30 + ((box.width - 40) * i) / moves, box.y + box.height / 2);
  const script = (await metricOf(session, 'ScriptDuration')) - before;
  const frames = await page.evaluate(() => (globalThis as never as { frames: number }).frames);
  return (script * 1000) / Math.max(1, frames);
}

/** Megabytes that the heap has grown by after many live refreshes. */
async function grownBy(page: Page, session: CDPSession, push: () => Promise<void>): Promise<number> {
  await page.mouse.move(2, 2);
  let answered = 0;
  page.on('response', (response) => {
    if (response.url().endsWith('/api/v1/queries')) answered++;
  });
  const refresh = async (times: number) => {
    for (let i = 0; i < times; i++) {
      const before = answered;
      await push();
      await until('a refresh', () => answered > before, 30_000);
    }
  };
  const heap = async () => {
    await session.send('HeapProfiler.collectGarbage');
    return (await metricOf(session, 'JSHeapUsedSize')) / 1_000_000;
  };
  await refresh(10);
  const before = await heap();
  await refresh(refreshes);
  return (await heap()) - before;
}

async function metricOf(session: CDPSession, name: string): Promise<number> {
  const { metrics } = await session.send('Performance.getMetrics');
  const value = metrics.find((metric) => metric.name === name)?.value;
  if (value === undefined) throw new Error(`ui.board: the browser does not measure ${name}`);
  return value;
}
