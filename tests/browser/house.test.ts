import { setTimeout } from 'node:timers/promises';
import { expect } from 'chai';
import type { Browser } from 'playwright-core';
import { startApp, type RunningApp } from '../support/app';
import { openBrowser } from '../support/chromium';
import { counts } from '../support/count';
import { signedIn } from '../support/pages';
import { until } from '../support/until';

describe('the house as a whole', () => {
  let app: RunningApp;
  let browser: Browser;

  before(async function () {
    this.timeout(240_000);
    app = await startApp({ accounts: true });
    browser = await openBrowser();
    await until('the first pulls', async () => {
      const rows = await app.db.rows<{ at: number | null }>(
        'select last_success_at as at from collections where service <> $1',
        ['gateways']
      );
      return rows.length > 12 && rows.every(({ at }) => at !== null);
    });
  });
  after(async function () {
    this.timeout(90_000);
    await browser.close();
    await app.stop();
  });

  it('a page loads at most 300 kB of script, compressed', async () => {
    const { page } = await signedIn(browser, app, 'nerea');
    const storageState = await page.context().storageState();
    await page.context().close();
    for (const path of ['/services/machines/board', '/alarms/new', '/accounts/new', '/']) {
      const context = await browser.newContext({ storageState }); // with an empty cache
      const fresh = await context.newPage();
      const sizes: Promise<number>[] = [];
      fresh.on('requestfinished', (request) => {
        if (request.resourceType() === 'script' || new URL(request.url()).pathname.endsWith('.js'))
          sizes.push(request.sizes().then(({ responseBodySize }) => responseBodySize));
      });
      const alive = fresh.waitForRequest((request) => request.url().endsWith('/live')); // all is loaded by then
      await fresh.goto(app.origin + path);
      await alive;
      if (/board|alarms/.test(path)) await fresh.locator('canvas').first().waitFor();
      const total = (await Promise.all(sizes)).reduce((sum, size) => sum + size, 0);
      expect(total, path).to.be.within(50_000, 300_000);
      await context.close();
    }
  }).timeout(300_000);

  it('keeps an idle connection for longer than clients do: a request in the moment of closing would get no answer', async () => {
    const answer = await fetch(`${app.origin}/healthz`);
    expect(answer.headers.get('keep-alive')).to.equal('timeout=75');
  });

  it('can be installed on a phone: the browser finds nothing missing', async () => {
    const { page } = await signedIn(browser, app, 'nerea');
    const session = await page.context().newCDPSession(page);
    const { errors, data } = await session.send('Page.getAppManifest');
    expect(errors).to.deep.equal([]);
    expect((JSON.parse(data ?? '{}') as { name: string }).name).to.equal('Bussola');
    const { installabilityErrors } = await session.send('Page.getInstallabilityErrors');
    // A window that was opened without a trace installs nothing, whatever the page is.
    expect(installabilityErrors.map(({ errorId }) => errorId).filter((id) => id !== 'in-incognito')).to.deep.equal([]);
    await page.context().close();
  });

  it('a viewer sees everything, is offered no change, and cannot force one', async () => {
    const { page } = await signedIn(browser, app, 'oda');
    await page.goto(`${app.origin}/services/machines/board`);
    await page.getByRole('region', { name: 'Processor use' }).locator('canvas').waitFor();
    await page.getByRole('button', { name: 'More of Processor use' }).click();
    await page.getByRole('link', { name: 'Open on the bench' }).waitFor();
    await counts(page.getByRole('link', { name: 'Alarm on this' }), 0);
    await counts(page.getByRole('button', { name: 'Copy to my boards' }), 0);
    await page.goto(`${app.origin}/alarms/1`);
    expect(await page.getByRole('spinbutton', { name: 'Threshold' }).isDisabled()).to.equal(true);
    await counts(page.getByRole('button', { name: 'Save' }), 0);
    for (const path of ['/alarms/1?/remove', '/alarms/new?/save', '/accounts/1?/test', '/channels?/add']) {
      const response = await page.request.post(app.origin + path, {
        headers: { origin: app.origin },
        form: { id: '1' }
      });
      expect(response.status(), path).to.equal(403);
    }
    expect((await page.request.get(`${app.origin}/accounts/new`)).status()).to.equal(403);
    expect(await app.db.rows('select id from alarms')).to.have.length(1);
    await page.context().close();
  });

  it('a page shows what is new although things happen faster than it is read', async () => {
    const { page } = await signedIn(browser, app, 'nerea');
    // A slow network: reading the page takes longer than the time between two things that happen.
    await page.route('**/__data.json*', async (route) => {
      await setTimeout(900);
      await route.continue();
    });
    await page.goto(`${app.origin}/`);
    let isShown = false;
    const happening = (async () => {
      for (let index = 0; !isShown; index++) {
        const data = { from: new Date(app.clock.now()).toISOString(), text: `news ${index}` };
        const answer = await page.request.post(`${app.origin}/api/v1/marks`, { data });
        expect(answer.status(), await answer.text()).to.equal(201);
        await setTimeout(100);
      }
    })();
    try {
      await page.locator('svg title', { hasText: 'news 0' }).first().waitFor({ state: 'attached' });
    } finally {
      isShown = true;
      await happening;
      await page.context().close();
    }
  }).timeout(180_000);

  it('without a sign-in nothing is told, and another site’s form is refused', async () => {
    const ask = (path: string, init?: RequestInit) => fetch(app.origin + path, { redirect: 'manual', ...init });
    expect((await ask('/api/v1/resources/1')).status).to.equal(401);
    expect(
      (await ask('/api/v1/query', { method: 'POST', body: '{}', headers: { 'content-type': 'application/json' } }))
        .status
    ).to.equal(401);
    expect((await ask('/live')).status).to.equal(401);
    expect(
      (await ask('/accounts/1/__data.json')).headers.get('location') ??
        (await (await ask('/accounts/1/__data.json')).text())
    ).to.contain('/sign-in');
    const foreign = await ask('/sign-in', {
      method: 'POST',
      body: 'name=nerea&password=corallo-demo',
      headers: { origin: 'https://elsewhere.test', 'content-type': 'application/x-www-form-urlencoded' }
    });
    expect(foreign.status).to.equal(403);
    for (const to of ['//elsewhere.test', '/\\elsewhere.test', 'https://elsewhere.test']) {
      const signed = await ask(`/sign-in?to=${encodeURIComponent(to)}`, {
        method: 'POST',
        body: 'name=nerea&password=corallo-demo',
        headers: { origin: app.origin, 'content-type': 'application/x-www-form-urlencoded', accept: 'text/html' }
      });
      expect(signed.headers.get('location'), to).to.equal('/');
      expect(signed.headers.get('set-cookie'))
        .to.match(/HttpOnly/i)
        .and.to.match(/SameSite=Lax/i);
    }
  });

  it('a query that cannot be answered says so in words, at the API and on the panel', async () => {
    const { page } = await signedIn(browser, app, 'nerea');
    const bad = await page.request.post(`${app.origin}/api/v1/query`, { data: { signal: {}, from: 'x', to: 'y' } });
    expect(bad.status()).to.equal(400);
    expect(
      ((await bad.json()) as { problems: { path: string }[] }).problems.map(({ path }) => path)
    ).to.include.members(['signal.rows', 'from', 'to']);
    expect(
      (
        await page.request.post(`${app.origin}/api/v1/query`, {
          data: 'not json',
          headers: { 'content-type': 'application/json' }
        })
      ).status()
    ).to.equal(400);
    expect((await page.request.get(`${app.origin}/api/v1/resources/99999`)).status()).to.equal(404);
    expect((await page.request.get(`${app.origin}/incidents/1e9`)).status()).to.equal(404);
    await page.context().close();
  });

  it('the keyboard moves in time, opens and closes, and never while typing', async () => {
    const { page, complaints } = await signedIn(browser, app, 'nerea');
    await page.goto(`${app.origin}/services/machines/board?range=PT2H`);
    const chart = page.getByRole('region', { name: 'Processor use' }).locator('canvas');
    await chart.waitFor();
    await page.keyboard.press('[');
    await page.waitForURL(/from=.*to=/);
    await page.getByText('fixed').waitFor();
    await page.keyboard.press('=');
    await page.waitForURL(/range=PT3H/);
    await page.getByRole('button', { name: 'Details of' }).first().click();
    await page.getByRole('complementary').getByText('Provider’s id').waitFor();
    await page.keyboard.press('Escape');
    await page.getByRole('complementary').waitFor({ state: 'detached' });
    await page.keyboard.press('?');
    await page.getByRole('dialog', { name: 'Keyboard' }).waitFor();
    await page.keyboard.press('Escape');
    await page.getByRole('dialog', { name: 'Keyboard' }).waitFor({ state: 'hidden' });
    await page.keyboard.press('/');
    await page.keyboard.type('gate-api-1 [');
    expect(page.url()).to.contain('range=PT3H');
    await page.keyboard.press('Backspace');
    await page.keyboard.press('Backspace');
    await page.getByRole('listbox').getByRole('option').first().waitFor();
    await page.keyboard.press('Enter');
    await page.waitForURL(/resources\/\d+/);
    await page.getByRole('heading', { name: 'gate-api-1', level: 1 }).waitFor();
    expect(complaints).to.deep.equal([]);
    await page.context().close();
  });

  it('dragging across a chart chooses the range for all, and back returns', async () => {
    const { page } = await signedIn(browser, app, 'nerea');
    await page.goto(`${app.origin}/services/machines/board?range=PT1H`);
    const chart = page.getByRole('region', { name: 'Processor use' }).locator('canvas');
    await chart.waitFor();
    const box = (await chart.boundingBox())!;
    await page.mouse.move(box.x + box.width * 0.4, box.y + 60);
    await page.mouse.down();
    await page.mouse.move(box.x + box.width * 0.7, box.y + 60, { steps: 5 });
    await page.mouse.up();
    await page.waitForURL(/from=.*to=/);
    await page.goBack();
    await page.waitForURL(/range=PT1H/);
    await page.context().close();
  });

  it('the night watch stays when a person returns', async () => {
    const { page } = await signedIn(browser, app, 'nerea');
    await page.getByRole('button', { name: 'Switch to the night watch' }).click();
    await page.reload();
    expect(await page.locator('html').getAttribute('class')).to.contain('dark');
    expect(await page.evaluate(() => getComputedStyle(document.body).backgroundColor)).to.equal('rgb(14, 22, 33)');
    await page.context().close();
  });

  it('a lost connection is visible and mends itself', async () => {
    const { page } = await signedIn(browser, app, 'nerea');
    await page.route('**/live', (route) => route.abort());
    await page.reload();
    await page.getByText('Connection lost, trying again').waitFor();
    await page.unroute('**/live');
    await page.getByTestId('age').waitFor();
    await page.context().close();
  });

  describe('before the page is awake', () => {
    /** A page whose script waits until it is released. */
    async function asleep(path: string) {
      const { page } = await signedIn(browser, app, 'nerea');
      let release!: () => void;
      const gate = new Promise<void>((open) => (release = open));
      await page.route('**/_app/immutable/**/*.js', async (route) => {
        await gate;
        await route.continue();
      });
      await page.goto(`${app.origin}${path}`, { waitUntil: 'commit' });
      return { page, release };
    }

    it('what is pressed is done once it is', async () => {
      const { page, release } = await asleep('/services/machines/board');
      const theme = page.getByRole('button', { name: /^Switch to the/ });
      await theme.click();
      await theme.click(); // out of impatience: one wish
      expect(await page.locator('html').getAttribute('class')).to.not.contain('dark');
      release();
      await page.locator('html.dark').waitFor();
      await page.context().close();
    }).timeout(180_000);

    it('what is chosen and typed is taken once it is', async () => {
      const { page, release } = await asleep('/alarms/new');
      await page.getByLabel('Threshold', { exact: true }).fill('12');
      await page.getByLabel('Direction', { exact: true }).selectOption('below');
      release();
      await page.getByTestId('rehearsal').getByText('times raised').waitFor();
      expect(await page.getByLabel('Direction', { exact: true }).inputValue()).to.equal('below');
      expect(await page.getByLabel('Threshold', { exact: true }).inputValue()).to.equal('12');
      await page.context().close();
    }).timeout(180_000);
  });
});
