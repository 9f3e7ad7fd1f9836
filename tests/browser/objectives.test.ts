import { expect } from 'chai';
import { counts } from '../support/count';
import { until } from '../support/until';
import { withVisit } from '../support/visit';

describe('a promise, as people make it and look at it', () => {
  const visit = withVisit({ minutes: 2, who: 'kaja', app: { days: 1 } });
  const tried = () => visit.region('Now and in past periods');
  const promise = (name: string) => visit.page.locator(`tr[data-promise="${name}"]`);

  it('says what it is while there is none', async () => {
    await visit.page.goto(`${visit.app.origin}/objectives`);
    await visit.page.getByRole('heading', { level: 1, name: 'No promises yet' }).waitFor();
    await visit.page.getByText('A promise says how much has to be good over a period').waitFor();
  });

  it('begins with what a panel of a board shows, and with a limit that suits it', async () => {
    await visit.page.goto(`${visit.app.origin}/services/machines/board`);
    await visit.page.getByRole('button', { name: 'More of Processor use' }).first().click();
    await visit.page.getByRole('link', { name: 'Promise on this' }).click();
    await visit.page.waitForURL(/\/objectives\/new\?/);
    await visit.page.getByRole('heading', { level: 1, name: 'New promise' }).waitFor();
    expect(await visit.page.getByLabel('Name', { exact: true }).inputValue()).to.match(/^Processor use/);
    expect(Number(await visit.page.getByRole('spinbutton', { name: 'Limit' }).inputValue())).to.be.above(0);
    expect(await visit.page.getByRole('spinbutton', { name: 'Target' }).inputValue()).to.equal('99.9');
  });

  it('says while it is written how it would be met and what it would raise, and takes levels that suit its target', async () => {
    await tried().locator('[data-period="now"]').getByText('Met so far').waitFor();
    await visit.page.getByRole('spinbutton', { name: 'Limit' }).fill('0');
    await tried().locator('[data-period="now"]').getByText('Broken').waitFor();
    await tried()
      .locator('[data-raised="critical"]')
      .getByText(/critical: (once|\d+ times), last on/)
      .waitFor();
    await visit.page.getByRole('spinbutton', { name: 'Target' }).fill('90');
    await visit.button('Take levels that suit the target').click();
    await counts(visit.page.getByRole('spinbutton', { name: /^Rate \d/ }), 2);
    await visit.page.getByRole('spinbutton', { name: 'Target' }).fill('100');
    await tried().getByText('Complete the sentence to see it.').waitFor();
    await visit.page.getByRole('spinbutton', { name: 'Target' }).fill('95');
    await visit.page.getByRole('spinbutton', { name: 'Limit' }).fill('99.5');
    await tried().locator('[data-period="now"]').getByText('Met so far').waitFor();
  });

  it('is listed with what is left of its error budget, and stands on a board', async function () {
    this.timeout(240_000);
    await visit.page.getByLabel('Name', { exact: true }).fill('Machines have room');
    await visit.button('Add the promise').click();
    await visit.page.waitForURL(/\/objectives$/);
    await visit.page.getByRole('heading', { level: 1, name: 'The promise is met.' }).waitFor();
    await promise('Machines have room').getByRole('meter', { name: 'Error budget left' }).waitFor();
    await until(
      'its samples',
      async () => {
        visit.app.clock.pass(1);
        await visit.app.live(1);
        const rows = await visit.app.db.rows(`select 1 from series where metric = 'objective.left'`);
        return rows.length > 0;
      },
      60_000
    );
    await visit.page.goto(`${visit.app.origin}/services/objectives/board`);
    await visit.page.getByText('Every promise now').waitFor();
    await visit.page.getByRole('cell', { name: 'Machines have room' }).first().waitFor();
  });

  it('shows how fast its error budget is used, keeps what is typed while news arrive, and goes with its alarm', async function () {
    this.timeout(180_000);
    await visit.page.goto(`${visit.app.origin}/objectives`);
    await promise('Machines have room').getByRole('link').click();
    await visit.page
      .getByRole('heading', { level: 1, name: /^Machines have room is met: \d+ % of its error budget is left\.$/ })
      .waitFor();
    await visit.region('How fast it is used').locator('[data-span="30"]').waitFor();
    await visit.region('What used it').waitFor();
    const target = visit.page.getByRole('spinbutton', { name: 'Target' });
    await target.fill('97');
    visit.app.clock.pass(6);
    await visit.app.live(2);
    expect(await target.inputValue()).to.equal('97');
    await visit.button('Save').click();
    await visit.page.getByText('The promise and its alarm are saved.').waitFor();
    await visit.page.getByRole('link', { name: 'Its alarm' }).waitFor();
    await visit.button('Remove…').click();
    await visit.button('Remove').click();
    await visit.page.waitForURL(/\/objectives$/);
    await visit.page.getByRole('heading', { level: 1, name: 'No promises yet' }).waitFor();
    const left = await visit.app.db.rows(`select 1 from alarms where name like 'Promise: %' and removed_at is null`);
    expect(left).to.deep.equal([]);
    expect(visit.complaints).to.deep.equal([]);
  });
});
