import { encodeBatch, pointsOfLength } from '../src/lib/core/series';
import { makeKey } from '../src/lib/server/intake/receive/keys';
import { appendToJournal } from '../src/lib/server/store/journal';
import { startApp, type RunningApp } from '../tests/support/app';
import { openBrowser } from '../tests/support/chromium';
import { signedIn } from '../tests/support/pages';
import { until } from '../tests/support/until';
import { drawnIn, handedWhole, makeBoard, seriesFor, signalOf } from './board-page';
import { middleOf, refuseErrors, type Measurement } from './measurement';

const [panels, seriesOfEach] = [12, 20];
const [days, every] = [396, 1_800_000];
const rounds = 5;
const goal = 1000;
const day = 86_400_000;

/** How long until a board of thirteen months is drawn in the real browser, by the built application. */
export async function uiYear(): Promise<Measurement> {
  const app = await startApp();
  const browser = await openBrowser();
  try {
    await fill(app);
    const { page } = await signedIn(browser, app, 'nerea');
    const errors: string[] = [];
    page.context().on('weberror', (error) => errors.push(error.error().message));
    await page.context().addInitScript('globalThis.__name = (of) => of');
    const signals = (step: string) => Array.from({ length: panels }, (_, i) => signalOf(`metric.${i + 1}`, step));
    const address = `${app.origin}/boards/${await makeBoard(app, page, signals('auto'))}?range=P${days}D`;
    const another = await page.context().newPage();
    const took = { ours: [] as number[], theirs: [] as number[] };
    for (let round = 0; round < rounds; round++) {
      took.ours.push(await drawnIn(page, address, panels));
      took.theirs.push(await handedWhole(another, app, signals('PT3H'), days * day));
    }
    refuseErrors(errors);
    return {
      name: 'ui.year',
      unit: 'ms until all is drawn',
      better: 'lower',
      ours: middleOf(took.ours),
      theirs: middleOf(took.theirs),
      alternative: 'the same samples by three hours handed to Chart.js whole, with its own decimation',
      note: `${panels} panels of ${seriesOfEach} series over ${days} days, a sample each half hour, from navigation on; goal ${goal} ms`
    };
  } finally {
    await browser.close();
    await app.stop();
  }
}

/** Thirteen months of samples with a course of days, weeks and a year, sealed as they are when they have come one by one. */
async function fill(app: RunningApp): Promise<void> {
  const { db, clock } = app;
  await db.transaction((within) =>
    makeKey(within, {
      ...{ name: 'large', expiresAt: null, mostSeries: 10_000, mostBytesADay: 1_000_000_000 },
      ...{ createdAt: clock.now(), createdBy: 'bench' }
    })
  );
  const series = await seriesFor(app, panels, seriesOfEach, every);
  const cells = (days * day) / every;
  const end = Math.floor(clock.now() / every) * every;
  for (let from = 0; from < series.length; from += seriesOfEach) {
    const blocks = series.slice(from, from + seriesOfEach).map(({ id }) => {
      const points = pointsOfLength(cells);
      for (let i = 0; i < cells; i++) {
        const at = end - (cells - i) * every;
        const value =
          50 +
          20 * Math.sin((at / day) * 2 * Math.PI + id) +
          8 * Math.sin(at / day / 58 + id) +
          ((i * id * 7919) % 100) / 10;
        points.at[i] = at;
        points.sum[i] = points.min[i] = points.max[i] = value;
        points.count[i] = 1;
      }
      return { seriesId: id, points };
    });
    await appendToJournal(db, {
      accountId: series[0]?.accountId ?? 0,
      receivedAt: clock.now(),
      from: end - cells * every,
      to: end,
      points: cells * blocks.length,
      bytes: encodeBatch(blocks)
    });
  }
  await until(
    'all is sealed',
    async () => {
      clock.pass(10);
      return (await db.rows('select from journal limit 1')).length === 0;
    },
    600_000
  );
}
