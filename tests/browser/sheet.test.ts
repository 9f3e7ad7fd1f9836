import { expect } from 'chai';
import type { Locator } from 'playwright-core';
import { signedIn } from '../support/pages';
import { until } from '../support/until';
import { linesPanel, withVisit } from '../support/visit';

describe('the sheet of a board', () => {
  const visit = withVisit({ minutes: 3 });
  const { region, made } = visit;
  const boxOf = async (one: Locator) => (await one.boundingBox()) ?? { x: 0, y: 0, width: 0, height: 0 };

  it('opens with the range and the refreshing that were saved with it, until somebody chooses', async () => {
    const { id } = await made('Hourly', [linesPanel('a', 0, 0), { ...linesPanel('b', 0, 4), range: 'P7D' }], {
      range: 'P3D',
      refresh: 'PT5M'
    });
    const { page } = visit;
    await page.goto(`${visit.app.origin}/boards/${id}`);
    const chosen = page.locator('[data-range-button]');
    expect(await chosen.innerText()).to.match(/^Last 3 days/);
    await region('Panel b').getByText('the last 7 days').waitFor();
    await chosen.click();
    expect(await page.getByLabel('Read again').inputValue()).to.equal('PT5M');
    await page.getByRole('button', { name: '1 hour', exact: true }).click();
    await page.waitForURL(/range=PT1H/);
    expect(await region('Panel b').getByText('the last 7 days').count(), 'a chosen range is for all').to.equal(0);
    await page.goBack();
    await region('Panel b').getByText('the last 7 days').waitFor();

    await page.goto(`${visit.app.origin}/boards/${id}?edit`);
    await page.getByLabel('Range it opens with').selectOption('P1D');
    await until('the change', async () => (await visit.read(id)).range === 'P1D');
  }).timeout(180_000);

  it('keeps its tools where they are, whatever comes and goes', async () => {
    const { id } = await made('Steady', [linesPanel('a', 0, 0)]);
    const { page } = visit;
    await page.goto(`${visit.app.origin}/boards/${id}?edit`);
    const done = page.getByRole('button', { name: 'Done' });
    await done.waitFor();
    const before = await boxOf(done);
    const seen: object[] = [];
    const { page: other } = await signedIn(visit.browser, visit.app, 'ivo');
    await other.goto(`${visit.app.origin}/boards/${id}?edit`);
    await page.getByText(/Ivo .* is (here|changing)/).waitFor();
    for (const title of ['Steady as she goes', 'S']) {
      await page.getByLabel('Title of the board').fill(title);
      await page.getByLabel('Title of the board').press('Enter');
      seen.push(await boxOf(done));
      await until('it is saved', async () => (await visit.read(id)).title === title);
      seen.push(await boxOf(done));
    }
    expect(seen).to.deep.equal(seen.map(() => before));
    await done.click();
    await page.waitForURL((url) => !url.search.includes('edit'));
    await other.context().close();
  }).timeout(180_000);

  it('is reached by keys past everything around it, and searched for by the name of a service', async () => {
    const { page } = visit;
    const { id } = await made('Reached', [linesPanel('a', 0, 0)]);
    await page.goto(`${visit.app.origin}/boards/${id}`);
    await region('Panel a').locator('canvas').waitFor();
    await page.keyboard.press('Tab');
    await page.keyboard.press('Tab');
    expect(await page.evaluate(() => document.activeElement?.textContent)).to.equal('Skip to the panels');
    await page.keyboard.press('Enter');
    let tabs = 0;
    const isInPanel = () => page.evaluate(() => document.activeElement?.closest('section.panel') !== null);
    do {
      await page.keyboard.press('Tab');
      tabs++;
    } while (!(await isInPanel()) && tabs < 20);
    expect(tabs, 'from the link to the first panel').to.be.below(8);
    await page.keyboard.press('/');
    await page.keyboard.type('machines board');
    await page.getByRole('option', { name: /Machines board.*ready board/ }).click();
    await page.waitForURL(/services\/machines\/board/);
  }).timeout(180_000);

  it('a double click on a chart never leaves the board', async () => {
    const { id } = await made('Stays', [linesPanel('a', 0, 0)]);
    const { page } = visit;
    await page.goto(`${visit.app.origin}/boards`);
    await page.goto(`${visit.app.origin}/boards/${id}?from=2026-05-04T13:30:00Z&to=2026-05-04T14:00:00Z`);
    const chart = region('Panel a').locator('canvas').last();
    await chart.dblclick({ position: { x: 150, y: 30 } });
    await page.waitForURL(/range=PT3H/);
    await chart.dblclick({ position: { x: 150, y: 30 } });
    expect(new URL(page.url()).pathname).to.equal(`/boards/${id}`);
  }).timeout(180_000);

  it('stands alone on paper, by day, with its range and the time, no panel cut in two', async () => {
    const panels = [...'abcdef'].map((name, i) => linesPanel(name, (i % 2) * 6, Math.floor(i / 2) * 4));
    const { id } = await made('On paper', panels);
    const { page } = visit;
    await page.context().addCookies([{ name: 'theme', value: 'night', url: visit.app.origin }]);
    await page.goto(`${visit.app.origin}/boards/${id}`);
    await region('Panel f').locator('canvas').last().waitFor();
    const night = await page.evaluate(() => getComputedStyle(document.body).backgroundColor);
    await page.emulateMedia({ media: 'print' });
    await page.evaluate(() => dispatchEvent(new Event('beforeprint')));
    expect(await page.evaluate(() => getComputedStyle(document.body).backgroundColor)).not.to.equal(night);
    expect(await page.getByRole('heading', { name: 'On paper' }).isVisible()).to.equal(true);
    expect(await page.locator('[data-printed]').innerText()).to.match(
      /^Last 3 hours: 2026-05-04 .* Printed 2026-05-04/
    );
    for (const around of [
      page.getByRole('navigation', { name: 'Index' }),
      page.locator('[data-search]'),
      page.getByRole('button', { name: /^Edit/ })
    ])
      expect(await around.isVisible()).to.equal(false);
    expect(await region('Panel a').evaluate((panel) => getComputedStyle(panel).breakInside)).to.equal('avoid');
    expect((await page.pdf({ preferCSSPageSize: true })).byteLength).to.be.above(20_000);
    await page.evaluate(() => dispatchEvent(new Event('afterprint')));
    await page.emulateMedia({ media: 'screen' });
    expect(await page.evaluate(() => getComputedStyle(document.body).backgroundColor)).to.equal(night);
    await page.context().clearCookies({ name: 'theme' });
  }).timeout(180_000);

  it('names each of several gauges, however many there are for the room', async () => {
    const gauge = { ...linesPanel('a', 0, 0), picture: 'gauge', scale: { from: 0, to: 100 } };
    const { id } = await made('Gauges', [gauge]);
    await visit.page.goto(`${visit.app.origin}/boards/${id}`);
    const names = region('Panel a').getByRole('button', { name: /^(booking-web|gate-api)-\d$/ });
    await names.first().waitFor();
    const heights = await names.evaluateAll((all) => all.map((one) => one.getBoundingClientRect().height));
    expect(heights.length).to.be.above(3);
    expect(Math.min(...heights)).to.be.above(12);
  }).timeout(180_000);

  it('needs no inline styles: what the server draws has its widths before the script runs', async () => {
    const context = await visit.browser.newContext({
      javaScriptEnabled: false,
      storageState: await visit.page.context().storageState()
    });
    const still = await context.newPage();
    const answer = await still.goto(`${visit.app.origin}/services/machines/board`);
    const policy = answer?.headers()['content-security-policy'] ?? '';
    expect(policy).to.contain("style-src 'self' 'nonce-").and.not.contain('unsafe-inline');
    expect(answer?.headers()['permissions-policy']).to.contain('camera=()');
    const html = (await answer?.text()) ?? '';
    expect(html).not.to.match(/<[a-z][^<>]* style="/);
    expect(html).to.contain('data-first-styles');
    const [styled] = await still
      .locator('[data-style]')
      .evaluateAll((all) =>
        all
          .filter((one) => (one as HTMLElement).style.length > 0 || getComputedStyle(one).gridColumnStart !== 'auto')
          .map(String)
      );
    expect(styled, 'the sheet is applied').to.be.a('string');
    await context.close();
  }).timeout(180_000);
});
