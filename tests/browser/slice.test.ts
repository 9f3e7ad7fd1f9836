import { expect } from 'chai';
import type { Browser, Page } from 'playwright-core';
import { startApp, type RunningApp } from '../support/app';
import { openBrowser } from '../support/chromium';
import { counts } from '../support/count';
import { signedIn } from '../support/pages';
import { until } from '../support/until';

describe('the slice, as a person walks it', () => {
  let app: RunningApp;
  let browser: Browser;
  let page: Page;
  let complaints: string[];

  before(async function () {
    this.timeout(240_000);
    app = await startApp();
    browser = await openBrowser();
  });
  afterEach(async function () {
    if (this.currentTest?.state === 'failed')
      await page.screenshot({ path: `test-results/${this.currentTest.title.slice(0, 40)}.png` });
  });
  after(async function () {
    this.timeout(90_000);
    await browser.close();
    await app.stop();
  });

  it('signs in, and is sent back to where it wanted to go', async () => {
    ({ page, complaints } = await signedIn(browser, app, 'kaja'));
    expect(await page.getByRole('heading', { level: 1 }).innerText()).to.equal('Nothing is watched yet.');
    const stranger = await (await browser.newContext()).newPage();
    await stranger.goto(`${app.origin}/alarms?range=PT6H`);
    expect(new URL(stranger.url()).searchParams.get('to')).to.equal('/alarms?range=PT6H');
    await stranger.context().close();
  });

  it('adds the account: bad input is named in the form, the test says what is missing', async () => {
    await page.getByRole('link', { name: 'Connect an account' }).first().click();
    await page.waitForURL('**/accounts/new');
    await page.getByLabel('Name in Bussola').fill('Corallo Prod!');
    await page.getByLabel('Address of Levante’s interface').fill('levante');
    await page.getByRole('button', { name: 'Test it' }).click();
    await page.getByText('Use small letters, digits and hyphens.').waitFor();
    await page.getByText('Enter an address that starts with http:// or https://.').waitFor();

    await page.getByLabel('Name in Bussola').fill('corallo-prod');
    await page.getByLabel('Address of Levante’s interface').fill(`${app.standIns.url}/levante`);
    await page.getByLabel('Key id').fill('LEVK-CORALLO-PROD');
    await page.getByLabel('Secret').fill('a guess');
    await page.getByRole('button', { name: 'Test it' }).click();
    await page.locator('[data-check=signature][data-passed=false]').waitFor();
    expect(await page.locator('[data-check=signature]').innerText()).to.contain(
      'Enter the secret of LEVK-CORALLO-PROD again'
    );

    await page.getByLabel('Secret').fill('demo-only-2f9c61d07be84a35');
    await page.getByRole('button', { name: 'Test it' }).click();
    await page.locator('[data-check="read metrics"][data-passed=true]').waitFor();
    await counts(page.locator('[data-check][data-passed=true]'), 8);
    await page.getByRole('button', { name: 'Connect', exact: true }).click();
    await page.waitForURL(/accounts\/\d+$/);
  });

  it('sees samples arrive, on the account and on the board, with the age of the newest', async () => {
    await page.getByText('27 resources found, 27 collected').waitFor();
    await page
      .getByRole('navigation', { name: 'Index' })
      .getByRole('link', { name: /Machines/ })
      .click();
    await page.getByRole('region', { name: 'Processor use' }).locator('canvas').waitFor();
    await page.locator('[data-testid=age]').filter({ hasText: 'newest' }).waitFor();
    await page.getByRole('region', { name: 'Busiest machine now' }).locator('[data-testid=figure]').waitFor();
    const last = () => page.getByRole('region', { name: 'Processor use' }).locator('tbody tr').first().innerText();
    const seen = await last();
    app.clock.pass(2);
    await until('newer numbers by themselves', async () => (await last()) !== seen);
  });

  it('reads values under the pointer, on every chart the same instant', async () => {
    const chart = page.getByRole('region', { name: 'Processor use' }).locator('canvas');
    const box = (await chart.boundingBox())!;
    await page.mouse.move(box.x + box.width * 0.85, box.y + box.height / 2);
    const readout = page.getByRole('region', { name: 'Processor use' }).getByRole('status');
    await readout.waitFor();
    expect(await readout.innerText())
      .to.match(/Mon 4 May 1\d:\d\d/)
      .and.to.match(/\d(\.\d+)? %/);
    await page.mouse.move(5, 5);
  });

  it('confirms a channel by the link that was mailed to it', async () => {
    await page.getByRole('link', { name: /^On call/ }).click();
    await page.getByRole('link', { name: 'Channels' }).click();
    await page.getByLabel('Name').fill('Night watch');
    await page.getByLabel('Address').fill('ivo.brandt@example.test');
    await page.getByRole('button', { name: 'Add and send the link' }).click();
    const row = page.locator('[data-channel="ivo.brandt@example.test"]');
    await row.getByText('never confirmed').waitFor();
    const mail = await until('the mail', () =>
      app.standIns.mailbox.mails.find(({ to }) => to.includes('ivo.brandt@example.test'))
    );
    const link = /http:\/\/\S+\/confirm\/\S+/.exec(mail.text)?.[0];
    const inbox = await (await browser.newContext()).newPage();
    await inbox.goto(link!);
    expect(app.standIns.mailbox.mails).to.have.length(1);
    await inbox.getByRole('button', { name: 'Yes, send them to me' }).click();
    await inbox.getByRole('heading', { name: 'Confirmed' }).waitFor();
    await inbox.context().close();
    await row.getByText('✓').waitFor(); // by itself, in the other window
  });

  it('makes an alarm from the panel, and sees while typing what it would have done', async () => {
    await page
      .getByRole('navigation', { name: 'Index' })
      .getByRole('link', { name: /Machines/ })
      .click();
    await page.getByRole('button', { name: 'More of Processor use' }).click();
    await page.getByRole('link', { name: 'Alarm on this' }).click();
    await page.waitForURL('**/alarms/new**');
    expect(await page.getByRole('spinbutton', { name: 'Threshold' }).inputValue()).to.equal('80');
    const figures = page.getByTestId('rehearsal');
    await figures.getByText('times raised').waitFor();
    expect(await figures.innerText()).to.match(/^0\s+times raised/);
    await page.getByRole('spinbutton', { name: 'Threshold' }).fill('5');
    await until('more raised', async () => /^10\s+times raised/.test(await figures.innerText()));
    await page.getByRole('spinbutton', { name: 'Threshold' }).fill('100');
    await page.locator('[data-preflight=threshold][data-passed=false]').waitFor();
    await page.getByRole('spinbutton', { name: 'Threshold' }).fill('85');
    await page.getByLabel('Windows needed').fill('2');
    await page.getByLabel('Windows looked at').fill('3');
    await page.getByLabel('Windows looked at').blur();
    await page.locator('[data-preflight=confirmed][data-passed=true]').waitFor();
    await page.getByRole('button', { name: 'Switch on' }).click();
    await page.waitForURL(/alarms\/\d+$/);
    await page.locator('[data-series=booking-web-2][data-state=clear]').waitFor();
  });

  it('stresses the machine at the stand-in and sees it raised, without touching the page', async () => {
    const desk = await (await browser.newContext()).newPage();
    await desk.goto(`${app.standIns.url}/levante`);
    await desk.getByLabel('Value of booking-web-2').fill('97');
    await desk.getByLabel('Minutes of booking-web-2').fill('5');
    await desk.getByRole('button', { name: 'Stress booking-web-2' }).click();
    await desk.getByText('booking-web-2 is stressed for 5 min.').waitFor();
    await desk.context().close();
    const raised = page.locator('[data-series=booking-web-2][data-state=raised]');
    await until('raised', async () => {
      await app.live(1);
      return raised.isVisible();
    });
    await counts(page.locator('[data-state=raised]'), 1);
    await page.getByRole('navigation', { name: 'Index' }).getByText('1 raised').waitFor();
  }).timeout(180_000);

  it('finds the e-mail in the inbox, and its link opens the incident', async () => {
    await until('the mail', () =>
      app.standIns.mailbox.mails.some(({ subject }) => subject.startsWith('MAJOR booking-web-2'))
    );
    await page.goto(`${app.standIns.url}/mail`);
    await page
      .getByRole('link', { name: /^MAJOR booking-web-2: processor use/ })
      .first()
      .click();
    const link = page.frameLocator('iframe').getByRole('link', { name: 'Open the incident in Bussola' });
    await page.goto((await link.getAttribute('href'))!);
    await page.getByRole('heading', { name: 'booking-web-2 is raised: high processor use' }).waitFor();
    expect(await page.getByTestId('told').innerText()).to.match(
      /^major, since \d\d:\d\d, \d.*In corallo-prod, perla-1\./
    );
    await page.getByRole('region', { name: 'Why' }).getByText('In 2 of 3 windows it is above 85 %').waitFor();
    await page.getByText('notified by e-mail').first().waitFor();
  });

  it('reads the incident on a phone: heading, figures and sentence apart from each other', async () => {
    await page.setViewportSize({ width: 390, height: 844 });
    const boxes = await page.evaluate(() =>
      ['main h1', '[data-testid=told]', 'main dl'].map((one) => {
        const { left, right, top, bottom, height } = document.querySelector(one)!.getBoundingClientRect();
        return { left, right, top, bottom, height };
      })
    );
    for (const [index, one] of boxes.entries()) {
      expect(one.left, 'within the screen').to.be.at.least(0);
      expect(one.right).to.be.at.most(390);
      for (const other of boxes.slice(index + 1))
        expect(one.bottom <= other.top || other.bottom <= one.top, 'none over another').to.equal(true);
    }
    expect(boxes[1]?.height, 'the sentence takes two lines at most').to.be.below(50);
    await page.setViewportSize({ width: 1280, height: 800 });
  });

  it('acknowledges it by the palette, which everybody sees, and takes that back', async () => {
    await page.keyboard.press('Control+k');
    await page.keyboard.type('acknowledge booking-web-2');
    await page.getByRole('option', { name: /^Acknowledge high processor use on booking-web-2/ }).waitFor();
    await page.keyboard.press('Enter');
    const acknowledged = page.getByTestId('acknowledged');
    await acknowledged.getByText('Kaja Tamm looks after it').waitFor();
    await page.goto(`${app.origin}/incidents`);
    await page
      .getByRole('row', { name: /booking-web-2/ })
      .getByText('with Kaja Tamm')
      .waitFor();
    await page.goBack();
    await acknowledged.getByRole('button', { name: 'Take it back' }).click();
    await page.getByRole('button', { name: 'Acknowledge', exact: true }).waitFor();
  });

  it('gets a second mail when it clears', async () => {
    await until(
      'clear',
      async () => {
        await app.live(1);
        return page.getByRole('heading', { name: 'booking-web-2 is clear again: high processor use' }).isVisible();
      },
      150_000 // a busy machine needs a while for each minute
    ).catch(async (error: unknown) => {
      const stored = await app.db.rows('select severity, opened_at, closed_at, ended_at from incidents');
      const shown = await page.getByRole('main').innerText();
      throw new Error(
        `${String(error)}; at ${app.clock.now()} ${JSON.stringify(stored)}; ${page.url()}: ${shown.slice(0, 300)}`
      );
    });
    await until('the mail', () =>
      app.standIns.mailbox.mails.some(({ subject }) => subject.startsWith('CLEAR booking-web-2'))
    );
    const told = app.standIns.mailbox.mails.filter(({ to }) => to.includes('harbour-duty@example.test'));
    expect(told, 'an unconfirmed channel').to.deep.equal([]);
  }).timeout(240_000);

  it('shows silence as a gap and says that data are old when the provider is down', async () => {
    app.standIns.levante.faultMode = 'down';
    await page.goto(`${app.origin}/accounts`);
    app.clock.pass(2);
    await page.getByTestId('last-error').filter({ hasText: 'The provider answered 503' }).waitFor();
    await app.live(6);
    await page.locator('[data-testid=age].text-major').waitFor();
    app.standIns.levante.faultMode = 'usual';
    app.clock.pass(2);
    await page.locator('[data-testid=age].text-ok').waitFor();
    await page.getByTestId('last-error').waitFor({ state: 'detached' });
  });

  it('never made the browser complain', () => {
    expect(complaints.filter((text) => !/401|400/.test(text))).to.deep.equal([]);
  });
});
