import { expect } from 'chai';
import { counts } from '../support/count';
import { signedIn } from '../support/pages';
import { until } from '../support/until';
import { withVisit } from '../support/visit';

describe('the index and the palette', () => {
  const visit = withVisit({ minutes: 1 });
  const search = () => visit.page.getByRole('combobox', { name: 'Search, or choose an action' });
  const option = (name: RegExp) => visit.page.getByRole('option', { name });

  it('shows every place of the index without scrolling at 1280 by 800', async () => {
    const { page } = visit;
    await page.setViewportSize({ width: 1280, height: 800 });
    await page.goto(visit.app.origin);
    const index = page.getByRole('navigation', { name: 'Index' });
    for (const name of ['Incidents', 'Alarms', 'On call', 'Boards', 'Bench', 'Accounts']) {
      const box = await index.getByRole('link', { name, exact: false }).last().boundingBox();
      expect((box?.y ?? 999) + (box?.height ?? 0), name).to.be.at.most(800);
    }
    await index.getByRole('link', { name: 'Bench' }).click();
    await page.getByRole('navigation', { name: 'Bench: pages' }).getByRole('link', { name: 'Groups' }).click();
    await page.waitForURL('**/groups**');
    expect(await index.getByRole('link', { name: 'Bench' }).getAttribute('aria-current')).to.equal('page');
  });

  it('opens by Ctrl+K, also from a field, and does things: theme, range, a new alarm, a new board', async () => {
    const { page } = visit;
    await page.goto(`${visit.app.origin}/bench`);
    await page.getByRole('searchbox').or(page.getByRole('textbox')).first().focus();
    await page.keyboard.press('Control+k');
    await search().fill('night theme');
    await page.keyboard.press('Enter');
    await page.waitForFunction(() => document.documentElement.classList.contains('dark'));
    await page.keyboard.press('Control+k');
    await search().fill('last 7 days');
    await page.keyboard.press('Enter');
    await page.waitForURL('**range=P7D**');
    await page.keyboard.press('Control+k');
    await search().fill('new alarm');
    await option(/^New alarm/).waitFor();
    await page.keyboard.press('Enter');
    await page.waitForURL('**/alarms/new?range=P7D');
    await page.keyboard.press('Control+k');
    await search().fill('new board');
    await option(/^New board/).waitFor();
    await page.keyboard.press('Enter');
    await page.waitForURL('**/boards/*?**edit**');
  });

  it('offers a viewer nothing that they may not do', async () => {
    const { page: theirs } = await signedIn(visit.browser, visit.app, 'oda');
    await theirs.goto(visit.app.origin);
    // The script of the page may still be on its way.
    await until('the palette', async () => {
      await theirs.keyboard.press('Control+k');
      return (await theirs.getByRole('option', { name: /^Watch/ }).count()) > 0;
    });
    await counts(theirs.getByRole('option', { name: /^New/ }), 0);
    await theirs.context().close();
  });

  it('follows the theme of the system until one is chosen', async () => {
    const { page: theirs } = await signedIn(visit.browser, visit.app, 'ivo');
    await theirs.emulateMedia({ colorScheme: 'dark' });
    await theirs.goto(visit.app.origin);
    await theirs.waitForFunction(() => document.documentElement.classList.contains('dark'));
    await theirs.emulateMedia({ colorScheme: 'light' });
    await theirs.waitForFunction(() => !document.documentElement.classList.contains('dark'));
    await theirs.getByRole('button', { name: 'Switch to the night watch' }).click();
    await theirs.emulateMedia({ colorScheme: 'dark' });
    await theirs.emulateMedia({ colorScheme: 'light' });
    await theirs.reload();
    await theirs.waitForFunction(() => document.documentElement.classList.contains('dark'));
    await theirs.context().close();
  });
});
