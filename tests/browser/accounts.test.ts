import { expect } from 'chai';
import type { Browser, Page } from 'playwright-core';
import { startApp, type RunningApp } from '../support/app';
import { openBrowser } from '../support/chromium';
import { counts } from '../support/count';
import { signedIn } from '../support/pages';
import { until } from '../support/until';

describe('accounts, coverage and intake, as a person uses them', () => {
  let app: RunningApp;
  let browser: Browser;
  let page: Page;
  let complaints: string[];
  let accountId: number;
  const region = (name: string) => page.getByRole('region', { name });
  const row = (name: string) => page.locator(`tr[data-resource="${name}"]`);

  before(async function () {
    this.timeout(300_000);
    app = await startApp({ accounts: true });
    browser = await openBrowser();
    ({ page, complaints } = await signedIn(browser, app, 'kaja'));
    const [account] = await app.db.rows<{ id: number }>(`select id from accounts where name = 'corallo-prod'`);
    accountId = account!.id;
    await until('every machine', async () => {
      const [found] = await app.db.rows<{ count: number }>(
        `select count(*) as count from collections where account_id = $1 and service = 'machines' and last_success_at is not null`,
        [accountId]
      );
      return found?.count === 1;
    });
  });
  after(async function () {
    this.timeout(90_000);
    await browser.close();
    await app.stop();
  });

  it('changes a plan in a sentence, and coverage follows it', async () => {
    await page.goto(`${app.origin}/accounts/${accountId}?service=machines`);
    const plan = region('Collection plan');
    expect(await plan.getByRole('button', { name: 'Save plan' }).isDisabled()).to.equal(true);
    await plan.getByLabel('Days of samples').fill('9000');
    await plan.getByRole('alert').waitFor();
    expect(await plan.getByRole('button', { name: 'Save plan' }).isDisabled(), 'a plan that cannot be').to.equal(true);
    await plan.getByLabel('Days of samples').fill('20');
    await plan.getByLabel('Names left out').fill('booking-*');
    await plan.getByLabel('Interval').selectOption('PT5M');
    await plan.getByRole('button', { name: 'Save plan' }).click();
    await page.getByText('The plan is saved.').waitFor();
    await page.goto(`${app.origin}/coverage?account=${accountId}&service=machines`);
    await row('booking-web-1').filter({ hasText: 'left out by the plan' }).waitFor();
    expect(await row('gate-api-1').getAttribute('data-state')).to.equal('collected');
    const [kept] = await app.db.rows<{ plan: { every: string; keep: { sampleDays: number } } }>(
      `select plan from plans where account_id = $1 and service = 'machines'`,
      [accountId]
    );
    expect([kept?.plan.every, kept?.plan.keep.sampleDays]).to.deep.equal(['PT5M', 20]);
  });

  it('switches resources off, on against the plan, and back to the plan', async () => {
    await page.getByLabel('Choose gate-api-1').check();
    await page.getByRole('button', { name: 'Do not collect' }).click();
    await row('gate-api-1').filter({ hasText: 'switched off' }).waitFor();
    await page.getByLabel('Choose booking-web-1').check();
    await page.getByRole('button', { name: 'Collect', exact: true }).click();
    await row('booking-web-1').filter({ hasText: 'switched on' }).waitFor();
    await page.getByLabel('Find a resource').fill('booking-web-1');
    await counts(page.locator('tr[data-resource]'), 1);
    await page.getByLabel('Choose all shown').check();
    await page.getByRole('button', { name: 'Follow the plan' }).click();
    await row('booking-web-1').filter({ hasText: 'left out by the plan' }).waitFor();
    await page.getByLabel('Find a resource').fill('');
  });

  it('switches guest-level metrics on at the provider', async () => {
    const off = page
      .locator('tr[data-resource]')
      .filter({ has: page.getByRole('cell', { name: 'off', exact: true }) })
      .first();
    const name = (await off.getAttribute('data-resource'))!;
    await page.getByLabel(`Choose ${name}`, { exact: true }).check();
    await page.getByRole('button', { name: 'Switch guest level on' }).click();
    await page.getByText('Switched on for 1.').waitFor();
    const [resource] = await app.db.rows<{ guest: string }>(
      'select guest from resources where account_id = $1 and name = $2',
      [accountId, name]
    );
    expect(resource?.guest).to.equal('on');
  });

  it('replaces a credential in place: a wrong one changes nothing', async () => {
    await page.goto(`${app.origin}/accounts/${accountId}`);
    const credential = region('The credential');
    const sealed = async () =>
      (
        await app.db.rows<{ sealed: Buffer }>('select secret_sealed as sealed from accounts where id = $1', [accountId])
      )[0]!.sealed.toString('hex');
    const before = await sealed();
    await credential.getByRole('button', { name: 'replace' }).click();
    await credential.getByLabel('Secret').fill('a guess');
    await credential.getByRole('button', { name: 'Test and replace' }).click();
    await page.getByText('The new credential was not accepted, so the old one stays.').first().waitFor();
    expect(await sealed()).to.equal(before);
    await credential.getByLabel('Secret').fill('demo-only-2f9c61d07be84a35');
    await credential.getByRole('button', { name: 'Test and replace' }).click();
    await until('the new secret', async () => (await sealed()) !== before);
    expect(await page.content()).not.to.contain('demo-only-2f9c61d07be84a35');
  });

  it('the intake page says who is behind and what is to be mended, with the remedy', async () => {
    await page.goto(`${app.origin}/intake`);
    await region('Services').locator('tr[data-account="corallo-prod"][data-service="machines"]').waitFor();
    const mend = region('Errors').locator('[data-fault=permission]').first();
    await mend.waitFor();
    expect(await mend.innerText()).to.match(/At the provider, grant .* to /);
    await page.getByLabel('Account', { exact: true }).selectOption({ label: 'corallo-prod' });
    await page.waitForURL(/intake\?account=/);
    await counts(region('Services').locator('tr[data-account="perla-data"]'), 0);
  });

  it('the store page says what is kept and for how long', async () => {
    await page.getByRole('navigation', { name: 'Index' }).getByRole('link', { name: 'Accounts' }).click();
    await page.getByRole('navigation', { name: 'Accounts: pages' }).getByRole('link', { name: 'Store' }).click();
    await page.waitForURL('**/store**');
    const machines = region('What will be removed')
      .locator('tr')
      .filter({ hasText: 'corallo-prod' })
      .filter({ hasText: 'Machines' });
    expect(await machines.innerText())
      .to.contain('20 d')
      .and.to.contain('nothing');
    const answer = await page.request.get(
      `${app.origin}/api/v1/accounts/${accountId}/retention?service=machines&sampleDays=1&fiveMinuteDays=400&hourDays=1830`
    );
    expect(await answer.json()).to.deep.equal({ points: 0, bytes: 0, events: 0, incidents: 0, lines: 0, lineBytes: 0 });
    const refused = await page.request.get(
      `${app.origin}/api/v1/accounts/${accountId}/retention?service=machines&sampleDays=0`
    );
    expect([refused.status(), await refused.text()].join(' ')).to.match(/^400 .*sampleDays/);
  });

  it('a viewer reads the plan and cannot change it', async () => {
    const viewer = await signedIn(browser, app, 'oda');
    await viewer.page.goto(`${app.origin}/accounts/${accountId}?service=machines`);
    const plan = viewer.page.getByRole('region', { name: 'Collection plan' });
    await plan.waitFor();
    expect(await plan.getByLabel('Interval').isDisabled()).to.equal(true);
    await counts(plan.getByRole('button', { name: 'Save plan' }), 0);
    await counts(viewer.page.getByRole('button', { name: 'replace' }), 0);
    await viewer.page.context().close();
  });

  it('never made the browser complain', () => {
    expect(complaints.filter((text) => !text.includes('status of 400'))).to.deep.equal([]);
  });
});
