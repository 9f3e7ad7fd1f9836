import { expect } from 'chai';
import { Secret, TOTP } from 'otpauth';
import type { Browser, Page } from 'playwright-core';
import { second } from '../../src/lib/core/time';
import { startApp, launchApp, type RunningApp } from '../support/app';
import { openBrowser } from '../support/chromium';
import { counts } from '../support/count';
import { signedIn } from '../support/pages';
import { until } from '../support/until';

const good = 'four ferries cross at dusk';

describe('people, as they come and go', () => {
  let browser: Browser;
  before(async () => (browser = await openBrowser()));
  after(() => browser.close());

  /** The newest link of a kind in the mail of somebody. */
  const linkTo = (app: RunningApp, to: string, path: string): Promise<string> =>
    until(`the mail to ${to}`, () => {
      const mail = app.standIns.mailbox.mails.find((one) => one.to.includes(to) && one.text.includes(path));
      return mail !== undefined && (/http\S+/.exec(mail.text.slice(mail.text.indexOf('http')))?.[0] ?? false);
    });
  const fill = async (page: Page, fields: Readonly<Record<string, string>>): Promise<void> => {
    for (const [label, text] of Object.entries(fields)) await page.getByLabel(label, { exact: true }).fill(text);
  };
  const press = (page: Page, name: string) => page.getByRole('button', { name, exact: true }).click();

  it('the first administrator comes by the link of the console, and invites the next by mail', async () => {
    const app = await launchApp();
    try {
      const page = await (await browser.newContext()).newPage();
      await page.goto(`${app.origin}/sign-in`);
      await page.getByText('Nobody is here yet.').waitFor();
      const first = await until('the link', () => /http\S+\/first\/\S+/.exec(app.logged)?.[0] ?? false);
      await page.goto(first);
      await fill(page, {
        'Your name': 'Kaja Tamm',
        'Sign-in name': 'kaja',
        'Mail address': 'kaja@example.test',
        Password: 'kaja tamm'
      });
      await press(page, 'Begin');
      await page.getByText('It has 9 characters, and needs 10.').waitFor();
      await fill(page, { Password: good });
      await press(page, 'Begin');
      await page.getByRole('heading', { name: 'Nothing is watched yet.' }).waitFor();
      const again = await page.request.get(first);
      expect(again.status()).to.equal(404);

      await page.goto(`${app.origin}/people`);
      await press(page, 'Invite somebody…');
      await fill(page, { 'Full name': 'Mira Voss', 'Sign-in name': 'Mira!', 'Mail address': 'mira@example.test' });
      await press(page, 'Send the invitation');
      await page.getByRole('alert').filter({ hasText: 'Use small letters' }).waitFor();
      await fill(page, { 'Sign-in name': 'mira' });
      await page.getByLabel('Role', { exact: true }).selectOption('editor');
      await press(page, 'Send the invitation');
      await page.getByRole('status').filter({ hasText: 'a link goes to mira@example.test' }).waitFor();
      await page.locator('tr[data-person]').filter({ hasText: 'editor, invited' }).waitFor();

      const other = await (await browser.newContext()).newPage();
      const link = await linkTo(app, 'mira@example.test', '/join/');
      for (let looks = 0; looks < 3; looks++)
        expect((await other.request.get(link)).status(), 'a scanner looks').to.equal(200);
      await other.goto(link);
      await other.getByText('You sign in as mira; your role is editor.').waitFor();
      await fill(other, { Password: good });
      await press(other, 'Join');
      await other.getByRole('heading', { name: 'Mira Voss' }).waitFor();
      await other.getByText('mira@example.test', { exact: true }).waitFor();
      await counts(other.getByText('not confirmed'), 0);
      await page
        .locator('tr[data-person]')
        .filter({ hasText: 'Mira Voss' })
        .filter({ hasNotText: 'invited' })
        .waitFor(); // by itself
    } finally {
      await app.stop();
    }
  }).timeout(300_000);

  describe('at one application', () => {
    let app: RunningApp;
    before(async function () {
      this.timeout(240_000);
      app = await startApp({ issuer: true });
    });
    after(() => app.stop());
    const codeOf = (secret: string, ahead = 0) =>
      new TOTP({ secret: Secret.fromBase32(secret) }).generate({ timestamp: app.clock.now() + ahead * 30 * second });
    const atSignIn = async (): Promise<Page> => {
      const page = await (await browser.newContext()).newPage();
      await page.goto(`${app.origin}/sign-in?to=/teams`);
      return page;
    };

    it('sign in by an issuer: who is known by a verified address, and nobody else', async () => {
      const page = await atSignIn();
      await page.getByRole('link', { name: 'Sign in by Corallo sign-on' }).click();
      await page.getByRole('link', { name: 'Nerea Olmo' }).click();
      await page.waitForURL(`${app.origin}/teams`);
      await page.goto(`${app.origin}/profile`);
      await page.getByRole('heading', { name: 'Nerea Olmo' }).waitFor();
      for (const [name, why] of [
        ['Tove Falk', 'Nobody here has the address tove.falk@example.test.'],
        ['Oda Lind', 'Nobody here has your address: it was not confirmed there.']
      ] as const) {
        const stranger = await atSignIn();
        await stranger.getByRole('link', { name: 'Sign in by Corallo sign-on' }).click();
        await stranger.getByRole('link', { name }).click();
        await stranger.getByText(why).waitFor();
      }
      // An answer that this browser did not ask for signs nobody in.
      const forged = await (await browser.newContext()).newPage();
      await forged.goto(`${app.origin}/sign-in/back?code=abc&state=def`);
      await forged.waitForURL(/\/sign-in$/);
      app.standIns.issuer!.behaving.current = 'refuse';
      const down = await atSignIn();
      await down.getByRole('link', { name: 'Sign in by Corallo sign-on' }).click();
      await down.getByText('did not sign you in').or(down.getByText('refused on purpose')).first().waitFor();
      app.standIns.issuer!.behaving.current = 'well';
    }).timeout(180_000);

    it('set a second factor up, and need it from then on', async () => {
      const { page, complaints } = await signedIn(browser, app, 'ivo');
      await page.goto(`${app.origin}/profile`);
      await press(page, 'Set up a second factor');
      const secret = await page.getByTestId('secret').innerText();
      const setUp = page.getByRole('form', { name: 'Set up the second factor' });
      await setUp.getByLabel('Code').fill(codeOf(secret));
      await setUp.getByLabel('Your password').fill('corallo-demo');
      await setUp.getByRole('button', { name: 'Set it up' }).click();
      const list = page.getByRole('list', { name: 'Recovery codes' });
      await list.waitFor();
      const codes = await list.getByRole('listitem').allInnerTexts();
      expect(codes).to.have.length(10);

      const other = await atSignIn();
      await fill(other, { Name: 'ivo', Password: 'corallo-demo' });
      await press(other, 'Sign in');
      await fill(other, { Code: '000000' });
      await press(other, 'Sign in');
      await other.getByText('The code is wrong, or was used already.').waitFor();
      await other.goto(`${app.origin}/people`);
      await other.waitForURL(/\/sign-in\?/); // half a sign-in shows nothing
      await other.goto(`${app.origin}/sign-in/second-factor?to=/teams`);
      await fill(other, { Code: codeOf(secret, 1) });
      await press(other, 'Sign in');
      await other.waitForURL(`${app.origin}/teams`);
      expect(complaints).to.deep.equal([]);
    }).timeout(180_000);

    it('set a new password by mail, and choose when they are not disturbed', async () => {
      const page = await atSignIn();
      await page.getByRole('link', { name: 'Set a new password' }).click();
      await fill(page, { 'Name or mail address': 'oda' });
      await press(page, 'Send the link');
      await page.getByRole('status').filter({ hasText: 'If somebody has that name' }).waitFor();
      await page.goto(await linkTo(app, 'oda.lind@example.test', '/reset/'));
      await fill(page, { 'New password': good });
      await press(page, 'Set it');
      await page.waitForURL(/\/sign-in$/);
      await fill(page, { Name: 'oda', Password: good });
      await press(page, 'Sign in');
      await page.waitForURL(`${app.origin}/`);
      await page.goto(`${app.origin}/profile`);
      await press(page, 'Add quiet hours');
      await fill(page, { 'Quiet from': '23:00' });
      await page.getByLabel('Exception').selectOption('major');
      await page.getByRole('form', { name: 'How you are reached' }).getByRole('button', { name: 'Save' }).click();
      await page.getByRole('status').filter({ hasText: 'Saved.' }).waitFor();
      await page.reload();
      expect(await page.getByLabel('Quiet from').inputValue()).to.equal('23:00');
      expect(await page.getByLabel('Exception').inputValue()).to.equal('major');
    }).timeout(180_000);

    it('are disabled by an administrator, which the audit shows and nobody else reads', async () => {
      const { page: kaja, complaints } = await signedIn(browser, app, 'kaja');
      const { page: nerea } = await signedIn(browser, app, 'nerea');
      await kaja.goto(`${app.origin}/people`);
      await press(kaja, 'Change… Nerea Olmo');
      await press(kaja, 'Disable…');
      await kaja.getByLabel('Their shifts and messages go to').selectOption({ label: 'Ivo Brandt' });
      await press(kaja, 'Disable Nerea Olmo');
      await kaja.getByRole('status').filter({ hasText: 'Nerea Olmo is disabled and signed out.' }).waitFor();
      await nerea.goto(`${app.origin}/boards`);
      await nerea.waitForURL(/\/sign-in/);
      await fill(nerea, { Name: 'nerea', Password: 'corallo-demo' });
      await press(nerea, 'Sign in');
      await nerea.getByText('The name and password do not belong together.').waitFor();

      await kaja.goto(`${app.origin}/audit`);
      const acts = await kaja.locator('tr[data-act]').allInnerTexts();
      const said = acts.map((row) => row.replaceAll(/\s+/g, ' '));
      expect(said[0]).to.match(/nerea, not signed in Signs in refused/);
      expect(said[1]).to.match(/Kaja Tamm Disables somebody Nerea Olmo/);
      expect(said.some((row) => row.includes('Signs in by Corallo sign-on'))).to.equal(true);
      expect(said.some((row) => row.includes('Sets a second factor'))).to.equal(true);
      expect(said.some((row) => row.includes('Sets a new password by a link'))).to.equal(true);
      await kaja.getByLabel('Outcome').selectOption('refused');
      await until('the filter', async () => (await kaja.locator('tr[data-act]').count()) < acts.length);
      const download = kaja.waitForEvent('download');
      await press(kaja, 'Save as CSV');
      expect((await download).suggestedFilename()).to.equal('acts.csv');

      const { page: oda } = await signedIn(browser, app, 'oda', good);
      await oda.goto(`${app.origin}/audit`);
      await oda.waitForURL(/\/refused\?/);
      await oda.goto(`${app.origin}/people`);
      await counts(oda.getByRole('button', { name: 'Invite somebody…' }), 0);
      expect(await oda.getByText('ivo.brandt@example.test').count(), 'mail addresses are for administrators').to.equal(
        0
      );
      expect(complaints).to.deep.equal([]);
    }).timeout(180_000);
  });
});
