import { expect } from 'chai';
import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { mkdirSync, mkdtempSync } from 'node:fs';
import { join } from 'node:path';
import type { Page } from 'playwright-core';
import { applicationArguments, applicationEnvironment } from '../../scripts/application.mjs';
import { plainSignal } from '../../src/lib/core/signal';
import { makeKey } from '../../src/lib/server/intake/receive/keys';
import { freePort, launchApp, startApp, type RunningApp } from '../support/app';
import { openBrowser } from '../support/chromium';
import { counts } from '../support/count';
import { signedIn } from '../support/pages';
import { smallDisk, type SmallDisk } from '../support/small-disk';

const probe = smallDisk(8);
probe?.unmount();

/** Mounting needs rights that not everybody has; the rules themselves are tested in `disk.test.ts` beside their source. */
const where = probe === null ? describe.skip : describe;

const megabyte = 1_000_000;

where('a small disk', () => {
  let disk: SmallDisk;
  /** Stopped also when a test fails. */
  let running: RunningApp | null = null;
  beforeEach(() => (disk = smallDisk(400) as SmallDisk));
  afterEach(async () => {
    await running?.stop();
    running = null;
    disk.unmount();
  });

  /** Starts the application without seeding, to its end. @returns what it said */
  async function startUntilItEnds(data: string): Promise<{ code: number | null; said: string }> {
    const child = spawn(process.execPath, applicationArguments, {
      env: { ...process.env, ...applicationEnvironment, PORT: String(await freePort()), BUSSOLA_DATA: data },
      stdio: ['ignore', 'ignore', 'pipe']
    });
    let said = '';
    child.stderr.on('data', (part: Buffer) => (said += part.toString()));
    const [code] = (await once(child, 'exit')) as [number | null];
    return { code, said };
  }

  /** An application on the small disk, and a key to push to it. */
  async function pushing(leastFree: string) {
    const data = mkdtempSync(join(disk.path, 'app-'));
    const app = (running = await startApp({ data, env: { BUSSOLA_LEAST_FREE: leastFree } }));
    const { text } = await makeKey(app.db, {
      name: 'gate-sensors',
      expiresAt: null,
      mostSeries: 10,
      mostBytesADay: 1e12,
      createdAt: app.clock.now(),
      createdBy: 'test',
      ownerId: null
    });
    const begun = app.clock.now() / 1000 - 6 * 86_400;
    /** Pushes a number, at a minute of its own, and as many others besides. */
    const send = (number: number, others = 0): Promise<Response> => {
      const ballast = Array.from(
        { length: others },
        (_, i) => `ballast ${Math.random()} ${begun + number * others + i}\n`
      );
      return fetch(`${app.origin}/api/v1/receive/openmetrics`, {
        method: 'POST',
        headers: { authorization: `Bearer ${text}`, 'content-type': 'text/plain' },
        body: `number ${number} ${begun + number * 60}\n${ballast.join('')}# EOF\n`
      });
    };
    return { app, send };
  }

  /** The numbers that are stored, as the API gives them. */
  async function stored(app: RunningApp, page: Page): Promise<number[]> {
    const now = app.clock.now();
    const answer = await page.request.post(`${app.origin}/api/v1/query`, {
      data: {
        signal: { ...plainSignal({ metric: 'number', statistic: 'last' }), step: 'PT1M' },
        from: new Date(now - 7 * 86_400_000).toISOString(),
        to: new Date(now).toISOString()
      }
    });
    const { series } = (await answer.json()) as { series: { values: (number | null)[] }[] };
    return (series[0]?.values ?? []).filter((value) => value !== null);
  }

  it('that is full at the start is told in words, and nothing is written', async () => {
    disk.leave(3 * megabyte);
    const data = join(disk.path, 'data');
    mkdirSync(data);
    const { code, said } = await startUntilItEnds(data);
    expect(code).to.equal(1);
    expect(said).to.match(/The disk of the data folder .* has [23] MB free; Bussola needs 128 MB to start\./);
    expect(said)
      .to.contain('Make room there')
      .and.not.match(/\n\s+at /);
  }).timeout(90_000);

  it('that fills while Bussola runs refuses samples in words and loses none, and goes on by itself', async () => {
    const { app, send } = await pushing('100');
    const browser = await openBrowser();
    try {
      const { page } = await signedIn(browser, app, 'kaja');
      expect((await send(1)).status).to.equal(200);
      disk.leave(60 * megabyte);
      const refused = await send(2);
      expect(refused.status).to.equal(503);
      expect(refused.headers.get('retry-after')).to.equal('10');
      expect(((await refused.json()) as { message: string }).message).to.match(
        /^Bussola takes no samples: its disk has \d+ MB free, less than 100 MB\.$/
      );
      for (const place of ['/', '/intake']) {
        await page.goto(app.origin + place);
        expect(await page.locator('[data-low-disk]').innerText()).to.contain('Bussola takes no samples');
      }
      disk.leave(180 * megabyte);
      expect((await send(3)).status).to.equal(200);
      await page.goto(app.origin);
      await counts(page.locator('[data-low-disk]'), 0);
      expect(await stored(app, page)).to.deep.equal([1, 3]);
    } finally {
      await browser.close();
    }
  }).timeout(300_000);

  it('without any room left ends the process with a reason; what was acknowledged is there once there is room', async () => {
    const { app, send } = await pushing('0');
    const acknowledged: number[] = [];
    const gone = once(app.process, 'exit');
    for (let n = 1; app.process.exitCode === null && n < 1_000; n++) {
      disk.leave(12 * megabyte); // room for rows, but not for the next file of the log
      const answer = await send(n, 2_000).catch(() => null);
      if (answer?.status === 200) acknowledged.push(n);
    }
    expect(await gone).to.deep.equal([1, null]);
    expect(app.said).to.match(/The database has stopped itself: .*No space left on device/);
    expect(acknowledged).to.have.length.above(0);

    disk.leave(2 * megabyte);
    expect((await startUntilItEnds(join(app.data, 'data'))).said).to.contain('Bussola needs 48 MB to start');
    disk.leave(150 * megabyte);
    await app.stop(false);
    const again = (running = await launchApp({ data: app.data }));
    const browser = await openBrowser();
    try {
      const { page } = await signedIn(browser, again, 'kaja');
      expect(await stored(again, page)).to.deep.equal(acknowledged);
    } finally {
      await browser.close();
    }
  }).timeout(180_000);
});
