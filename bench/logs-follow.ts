import type { Page } from 'playwright-core';
import { makeKey } from '../src/lib/server/intake/receive/keys';
import { startApp, type RunningApp } from '../tests/support/app';
import { openBrowser } from '../tests/support/chromium';
import { signedIn } from '../tests/support/pages';
import { refuseErrors, type Measurement } from './measurement';

const readers = 5;
const linesASecond = 2000;
const batchEveryMs = 100;
const seconds = 15;
/** While the first lines come, pages are still drawn for the first time. */
const settlingMs = 2000;
/** The time of day, ms: of this process and of the browser, which run on one machine. */
const wallClock = (): number => performance.timeOrigin + performance.now();

/** What a page notes of the lines that it shows. */
interface Noted {
  lines: { sent: number; latency: number }[];
}

/**
 * How long from sending a line until it stands in a browser, when 2,000 come every second and five people follow them; against five who search anew every second while as many come.
 */
export async function logsFollow(): Promise<Measurement> {
  const app = await startApp();
  const browser = await openBrowser();
  try {
    const key = await keyOf(app);
    const pages: Page[] = [];
    const errors: string[] = [];
    // Each in a browser of their own, as five people have it: one browser has six connections to a server and no more.
    while (pages.length < readers) {
      const { page } = await signedIn(browser, app, 'nerea');
      page.context().on('weberror', (error) => errors.push(error.error().message));
      pages.push(page);
    }
    const first = pages[0] as Page;
    for (const page of pages) await follow(app, page);
    const sending = await send(app, key);
    const ours = (await Promise.all(pages.map(latenciesOf))).flat();
    const skipped = await Promise.all(pages.map(skippedOn));
    for (const page of pages.slice(1)) await page.context().close();
    await first.goto(`${app.origin}/people`); // nobody follows any more
    const theirs: number[] = [];
    app.clock.pass(1); // these come after those
    const batches: number[] = [];
    const polling = poll(app, first, batches, theirs);
    await send(app, key, batches);
    await polling.stop();
    refuseErrors(errors);
    return {
      name: 'logs.follow',
      unit: 's from sending to the browser, 95 of 100 lines',
      better: 'lower',
      ours: share(ours, 0.95),
      theirs: share(theirs, 0.95),
      alternative: 'searching anew every second, five at a time, while as many lines come',
      more: {
        'the middle line': share(ours, 0.5),
        'the last line': share(ours, 1),
        'of theirs the middle line': share(theirs, 0.5),
        'lines sent a second': sending,
        'lines seen by each': ours.length / readers,
        'skipped by each': skipped.reduce((sum, one) => sum + one, 0) / readers
      },
      note: `${readers} people follow every line in a browser each; goal: at most 1 s`
    };
  } finally {
    await browser.close();
    await app.stop();
  }
}

async function keyOf(app: RunningApp): Promise<string> {
  const { text } = await app.db.transaction((within) =>
    makeKey(within, {
      ...{ name: 'sender', scopes: ['logs'], createdBy: 'a bench', createdAt: app.clock.now(), expiresAt: null },
      ...{ mostSeries: 10, mostBytesADay: 1_000_000_000 }
    })
  );
  return text;
}

/** Follows all lines on a page, which notes of each that it shows how long ago it was sent. */
async function follow(app: RunningApp, page: Page): Promise<void> {
  await page.goto(`${app.origin}/logs`);
  await page.getByRole('button', { name: 'Follow live' }).click();
  await page.getByText('New lines come in at the top.').waitFor();
  await page.evaluate(() => {
    const noted: Noted = { lines: [] };
    (globalThis as unknown as { noted: Noted }).noted = noted;
    let newest = 0;
    const observer = new MutationObserver(() => {
      const now = performance.timeOrigin + performance.now();
      let most = newest;
      for (const row of document.querySelectorAll('main table tbody tr')) {
        const sent = Number(/sent (\d{13})/.exec(row.textContent ?? '')?.[1] ?? 0);
        if (sent <= newest) break; // the newest come first
        noted.lines.push({ sent, latency: (now - sent) / 1000 });
        most = Math.max(most, sent);
      }
      newest = most;
    });
    observer.observe(document.querySelector('main') as Node, { childList: true, subtree: true });
  });
}

/** Lines that came and could not be shown, as the page says it. */
async function skippedOn(page: Page): Promise<number> {
  const said = await page.getByTestId('skipped').allInnerTexts();
  return Number(/[\d,]+/.exec(said.join(''))?.[0].replaceAll(',', '') ?? 0);
}

/** How long ago the lines were sent that a page showed, once it was drawn for the first time. */
async function latenciesOf(page: Page): Promise<number[]> {
  const lines = await page.evaluate(() => (globalThis as unknown as { noted: Noted }).noted.lines);
  const from = Math.min(...lines.map(({ sent }) => sent)) + settlingMs;
  return lines.filter(({ sent }) => sent >= from).map(({ latency }) => latency);
}

/**
 * Sends lines as often as is said, each with the time at which it is sent.
 *
 * @param batches is given the times of all batches
 * @returns how many lines a second it came to
 */
async function send(app: RunningApp, key: string, batches: number[] = []): Promise<number> {
  const perBatch = (linesASecond * batchEveryMs) / 1000;
  const began = performance.now();
  let count = 0;
  const pending: Promise<unknown>[] = [];
  for (let batch = 0; batch < (seconds * 1000) / batchEveryMs; batch++) {
    const due = began + batch * batchEveryMs;
    await new Promise((go) => setTimeout(go, Math.max(0, due - performance.now())));
    const sent = Math.round(wallClock());
    // The clock of the application stands: later lines are given later times, as they would have.
    const at = new Date(app.clock.now() + batch * batchEveryMs).toISOString();
    batches.push(sent);
    const body = Array.from(
      { length: perBatch },
      (_, index) =>
        `${JSON.stringify({ time: at, message: `ticket ${batch * perBatch + index} accepted, sent ${sent}`, severity: 'info' })}\n`
    ).join('');
    pending.push(
      fetch(`${app.origin}/api/v1/receive/lines`, {
        method: 'POST',
        headers: { authorization: `Bearer ${key}`, 'content-type': 'application/x-ndjson' },
        body
      }).then(async (answer) => {
        if (!answer.ok) throw new Error(`logs.follow: ${answer.status} ${await answer.text()}`);
        count += perBatch;
      })
    );
  }
  await Promise.all(pending);
  return (1000 * count) / (performance.now() - began);
}

/** Five readers who search anew every second: of each batch, how long until an answer had it, or a newer one. */
function poll(app: RunningApp, page: Page, batches: readonly number[], latencies: number[]): { stop(): Promise<void> } {
  let stopped = false;
  const begun = wallClock() + settlingMs;
  const reader = async (): Promise<void> => {
    let newest = begun;
    while (!stopped) {
      const began = performance.now();
      const now = app.clock.now();
      const query = new URLSearchParams({
        ...{ search: 'accepted', most: '50' },
        ...{ from: new Date(now - 60_000).toISOString(), to: new Date(now + 60_000).toISOString() }
      });
      const answer = await page.request.get(`${app.origin}/api/v1/lines?${query}`);
      const { lines } = (await answer.json()) as { lines: { text: string }[] };
      const seen = wallClock();
      const upTo = Math.max(newest, ...lines.map(({ text }) => Number(/sent (\d{13})/.exec(text)?.[1] ?? 0)));
      for (const sent of batches) if (sent > newest && sent <= upTo) latencies.push((seen - sent) / 1000);
      newest = upTo;
      await new Promise((go) => setTimeout(go, Math.max(0, 1000 - (performance.now() - began))));
    }
  };
  const running = Array.from({ length: readers }, reader);
  return {
    stop: async () => {
      stopped = true;
      await Promise.all(running);
    }
  };
}

/** The figure below which a share of all lies. @example share([1, 2, 3, 4], 0.5) // 2 */
function share(values: readonly number[], of: number): number {
  const sorted = [...values].sort((a, b) => a - b);
  return sorted[Math.max(0, Math.ceil(sorted.length * of) - 1)] ?? NaN;
}
