import { expect } from 'chai';
import { counts } from '../support/count';
import { signedIn } from '../support/pages';
import { withVisit } from '../support/visit';

describe('backups, as administrators make them', () => {
  const visit = withVisit({ who: 'kaja', minutes: 1 });

  it('says what a backup is while there is none', async () => {
    await visit.page.goto(`${visit.app.origin}/backups`);
    await visit.page.getByRole('heading', { level: 1, name: 'There is no backup yet.' }).waitFor();
    await visit.page.getByText('restoring was never rehearsed').waitFor();
  });

  it('makes one, says how far it is, and rehearses restoring it', async () => {
    const { page } = visit;
    await page.getByRole('button', { name: 'Back up now' }).click();
    const row = page.getByRole('region', { name: 'Backups' }).getByRole('row', { name: /Kaja Tamm/ });
    await row.getByText('not rehearsed').waitFor({ timeout: 90_000 });
    await page.getByRole('heading', { level: 1, name: /^The last backup is from/ }).waitFor();
    await row.getByRole('button', { name: 'Rehearse' }).click();
    await page.getByRole('region', { name: 'Running' }).getByText('Restoring a backup is rehearsed').waitFor();
    await row.getByText(/^rehearsed .*, each row compared$/).waitFor({ timeout: 90_000 });
    await page.locator('main').getByText('that one can be restored').waitFor();
  }).timeout(240_000);

  it('schedules them; what is typed is not overwritten while one goes on', async () => {
    const { page } = visit;
    const form = page.getByRole('form', { name: 'Schedule of backups' });
    await form.getByLabel('Make backups regularly').check();
    await form.getByLabel('How often', { exact: true }).selectOption('week');
    await form.getByLabel('How many stay').fill('0');
    await page.getByRole('button', { name: 'Back up now' }).click();
    await page.getByRole('region', { name: 'Running' }).waitFor();
    await page.getByRole('region', { name: 'Running' }).waitFor({ state: 'detached', timeout: 90_000 });
    expect(await form.getByLabel('How many stay').inputValue()).to.equal('0');
    await form.getByRole('button', { name: 'Save the schedule' }).click();
    await form.getByRole('alert').getByText('At least one stays.').waitFor();
    await form.getByLabel('How many stay').fill('5');
    await form.getByRole('button', { name: 'Save the schedule' }).click();
    await page.getByText(/^Backups are made each Sunday at 02:30 \(/).waitFor();
    await page.getByText(/the next is due/).waitFor();
    await page.reload();
    expect(await form.getByLabel('How many stay').inputValue()).to.equal('5');
  }).timeout(240_000);

  it('removes one with its file', async () => {
    const { page } = visit;
    const rows = page.getByRole('region', { name: 'Backups' }).getByRole('row', { name: /Kaja Tamm/ });
    await counts(rows, 2);
    await rows.first().getByRole('button', { name: 'Remove…' }).click();
    await rows.first().getByText('Its file goes with it. Remove it?').waitFor();
    await rows.first().getByRole('button', { name: 'Remove', exact: true }).click();
    await page.getByText('It was removed.').waitFor();
    await rows.nth(1).waitFor({ state: 'detached' });
  });

  it('is nothing for whoever is no administrator', async () => {
    const { page: other } = await signedIn(visit.browser, visit.app, 'nerea');
    await other.goto(`${visit.app.origin}/store`);
    await other.getByRole('link', { name: 'Store', exact: true }).waitFor();
    await counts(other.getByRole('link', { name: 'Backups', exact: true }), 0);
    expect((await other.request.get(`${visit.app.origin}/backups`)).status()).to.equal(403);
    expect((await other.request.post(`${visit.app.origin}/api/v1/backups`)).status()).to.equal(403);
    await other.close();
  });

  it('never made the browser complain', () => expect(visit.complaints).to.deep.equal([]));
});
