import { expect } from 'chai';
import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { gates, gateToken } from '../../stand-ins/gates/gates';
import { readExposition } from '../../src/lib/core/openmetrics';
import { instant } from '../../src/lib/core/time';
import { makeKey } from '../../src/lib/server/intake/receive/keys';
import { counts } from '../support/count';
import { signedIn } from '../support/pages';
import { until } from '../support/until';
import { withVisit } from '../support/visit';

const axe = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8');

describe('OpenMetrics pages, as people connect them', () => {
  const visit = withVisit({ minutes: 1, who: 'kaja' });
  let account: string;

  /** Lets time pass until something is so: pages are read by the clock of the test. */
  const reading = (what: string, holds: () => Promise<boolean>): Promise<boolean> => {
    let looks = 0;
    return until(
      what,
      async () => {
        if (looks++ % 5 === 0) visit.app.clock.pass(0.25);
        return holds();
      },
      60_000
    );
  };

  it('are tried and connected by what another program lists, with rules that are seen before they are saved', async () => {
    const { app, page } = visit;
    await page.goto(`${app.origin}/accounts/new`);
    await page.getByRole('link', { name: 'Read OpenMetrics pages' }).click();
    // Pressed before its script has begun, a form is sent as any form is.
    await until('what is missing to be said', async () => {
      await visit.button('Connect').click();
      return page.getByRole('alert').filter({ hasText: 'Enter at least one page.' }).isVisible();
    });
    await page.getByLabel('Name in Bussola').fill('ticket-gates');
    await page.getByLabel('Where the pages are listed').selectOption('http');
    await page.getByLabel('Address of the list').fill(`${app.standIns.url}/gates/pages.json`);
    await page.getByLabel('How Bussola signs in').selectOption('bearer');
    await page.getByLabel('Secret').fill('wrong');
    await visit.button('Read a page').click();
    const tried = visit.region('Try it');
    await tried.getByRole('alert').filter({ hasText: 'refuses the sign-in (401)' }).waitFor();
    await page.getByLabel('Secret').fill(gateToken);
    await visit.button('Leave out series').click();
    await page.getByLabel('Pattern').fill('gate_debug_*');
    await visit.button('Leave out a label').click();
    await page.getByLabel('Label', { exact: true }).fill('firmware');
    await visit.button('Read a page').click();
    await tried.getByText('5 series, of which 4 will be stored. There are 6 pages.').waitFor();
    await tried.getByRole('row').filter({ hasText: 'gate_debug_frames' }).getByText('left out').waitFor();
    const scans = tried.getByRole('row').filter({ hasText: 'accepted' });
    expect(await scans.getByRole('cell').allInnerTexts()).to.deep.equal([
      'gate_scans result="accepted" firmware="4.2"',
      'gate_scans result="accepted"'
    ]);
    await page.getByLabel('Page', { exact: true }).selectOption('gate-capra-1');
    await tried.getByText('gate-capra-1 cannot be read.').waitFor();
    await visit.button('Connect').click();
    await page.waitForURL(/\/accounts\/\d+$/);
    account = page.url();
  });

  it('say at the top of their account which of them cannot be read, since when and why', async () => {
    const { page } = visit;
    const heading = page.getByRole('heading', { name: '1 of 6 pages cannot be read' });
    await reading('all pages to have been read', () => heading.isVisible());
    const row = visit.region('Pages').getByRole('row').filter({ hasText: 'gate-capra-1' });
    await row.getByText('It answers 503.').waitFor();
    await row.getByText('since').waitFor();
    await counts(visit.region('Pages').getByRole('row'), 1 + Object.keys(gates).length);
    await page.evaluate(axe);
    const found: unknown = await page.evaluate(
      'axe.run("main").then(({ violations }) => violations.map(({ id }) => id))'
    );
    expect(found).to.deep.equal([]);
  });

  it('are on the ready board, which leads to what is theirs', async () => {
    const { app, page } = visit;
    await page.goto(`${app.origin}/services/targets/board`);
    await page.getByRole('heading', { name: 'Pages', level: 1 }).waitFor();
    await page.getByText('gate-perla-1').first().waitFor();
    await page.goto(`${app.origin}/bench?service=targets`);
    await page.getByText('gate_waiting').first().waitFor();
  });

  it('are changed without entering the secret again, unless they lie elsewhere; news does not overwrite what is typed', async () => {
    const { app, page } = visit;
    await page.goto(`${account}/pages`);
    await page.getByLabel('How often').selectOption('30');
    app.clock.pass(1);
    await reading('the pages to be read', async () => {
      const [row] = await app.db.rows<{ at: number }>('select max(read_at) as at from targets');
      return (row?.at ?? 0) >= app.clock.now() - 30_000;
    });
    expect(await page.getByLabel('How often').inputValue()).to.equal('30');
    await page.getByLabel('Address of the list').fill('http://192.0.2.9/pages.json');
    await visit.button('Save').click();
    await page.getByRole('alert').filter({ hasText: 'has not been sent to http://192.0.2.9 before' }).waitFor();
    await page.getByLabel('Address of the list').fill(`${app.standIns.url}/gates/pages.json`);
    await visit.button('Save').click();
    await page.waitForURL(account);
    await page.getByText('read every 30 s').waitFor();
  });

  it('are seen by viewers, who change nothing', async () => {
    const { app, browser } = visit;
    const oda = await signedIn(browser, app, 'oda');
    await oda.page.goto(account);
    await oda.page.getByRole('heading', { name: '1 of 6 pages cannot be read' }).waitFor();
    await counts(oda.page.getByRole('link', { name: 'Change what is read' }), 0);
    const answer = await oda.page.request.put(`${app.origin}/api/v1/accounts/${account.split('/').pop()}/pages`, {
      data: { definition: { find: { by: 'http', url: 'http://192.0.2.9/' } } }
    });
    expect(answer.status()).to.equal(403);
    await oda.page.context().close();
  });

  it('may be those of Bussola itself: its figures, for whoever has a key that reads', async () => {
    const { app } = visit;
    const made = (scopes: readonly ('read' | 'metrics')[], name: string) =>
      app.db.transaction((within) =>
        makeKey(within, {
          ...{ name, scopes, expiresAt: null, mostSeries: 10, mostBytesADay: 1_000_000 },
          ...{ createdAt: instant(app.clock.now()), createdBy: 'test' }
        })
      );
    const { text: reads } = await made(['read'], 'watcher');
    const { text: sends } = await made(['metrics'], 'sender');
    const metrics = (key: string | null) =>
      fetch(`${app.origin}/metrics`, { headers: key === null ? {} : { authorization: `Bearer ${key}` } });
    expect([(await metrics(null)).status, (await metrics(sends)).status]).to.deep.equal([401, 401]);
    const answer = await metrics(reads);
    expect(answer.headers.get('content-type')).to.contain('application/openmetrics-text');
    const { samples, faults, complete } = readExposition(await answer.text());
    expect([faults, complete]).to.deep.equal([[], true]);
    const value = (name: string) => samples.find((one) => one.name === name)?.value ?? NaN;
    expect(value('bussola_pages_total')).to.be.above(10);
    expect(value('bussola_pages_failed_total')).to.be.above(0);
    expect(value('bussola_outbox_waiting')).to.equal(0);
    expect(value('bussola_memory_bytes')).to.be.above(1e7);
    const hidden = /ticket-gates|gate-perla|corallo/;
    expect(await (await metrics(reads)).text()).not.to.match(hidden);
  });

  it('never made the browser complain, but of what was refused', () => {
    expect(visit.complaints.filter((one) => !/40[01]|422|502/.test(one))).to.deep.equal([]);
  });
});
