import { expect } from 'chai';
import { counts } from '../support/count';
import { signedIn } from '../support/pages';
import { until } from '../support/until';
import { linesPanel, withVisit } from '../support/visit';

describe('what is slow, as administrators read it', () => {
  const visit = withVisit({ who: 'kaja', minutes: 2 });

  it('lists panels that were drawn, queries, accounts, requests and statements, and leads to them', async () => {
    const { app, page } = visit;
    const board = await visit.made('Harbour', [linesPanel('a', 0, 0)]);
    await page.goto(`${app.origin}/boards/${board.id}`);
    await page.locator('canvas').first().waitFor();
    await page.goto(`${app.origin}/slow`);
    const panels = visit.region('Panels');
    await panels.getByRole('link', { name: 'Panel a on Harbour' }).waitFor();
    const path = await panels.getByRole('link', { name: 'Panel a on Harbour' }).getAttribute('href');
    expect(path).to.match(new RegExp(`^/boards/${board.id}\\?(.*&)?panel=a`));
    await visit.region('Accounts').getByRole('link', { name: 'Machines of corallo-prod' }).waitFor();
    await visit.region('Requests').getByText('POST /api/v1/queries', { exact: true }).waitFor();
    await visit
      .region('Statements')
      .getByText(/^select /)
      .first()
      .waitFor();
    await page.getByRole('heading', { level: 1, name: /^(Nobody|Somebody) waited for/ }).waitFor();
  });

  it('is ordered by the longest time, and counts on', async () => {
    const { app, page } = visit;
    await page.getByRole('link', { name: 'By the longest time' }).click();
    await page.waitForURL(/by=longest/);
    const row = visit.region('Requests').getByRole('row').filter({ hasText: 'GET /slow' });
    const times = async () => Number(await row.getByRole('cell').nth(1).innerText());
    const before = await until('it is listed', async () => ((await row.count()) === 1 ? await times() : null));
    await page.request.get(`${app.origin}/slow`);
    await visit.button('Look again').click();
    await until('it counts on', async () => (await times()) > before);
    expect(visit.complaints).to.deep.equal([]);
  });

  it('is for administrators', async () => {
    const nerea = await signedIn(visit.browser, visit.app, 'nerea');
    expect((await nerea.page.goto(`${visit.app.origin}/slow`))?.status()).to.equal(403);
    await nerea.page.goto(`${visit.app.origin}/store`);
    await counts(nerea.page.getByRole('link', { name: 'What is slow' }), 0);
  });

  it('stands beside the processes, which everybody may see: this one does everything', async () => {
    const { app, page } = visit;
    await page.goto(`${app.origin}/processes`);
    await page.getByRole('heading', { level: 1, name: 'One process does everything' }).waitFor();
    const row = visit.region('Processes').getByRole('row').filter({ hasText: 'answers you' });
    expect(await row.innerText()).to.match(/^bussola.*serves and works.*reads .*corallo-prod/s);
    expect(visit.complaints).to.deep.equal([]);
  });
});
