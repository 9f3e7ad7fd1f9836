import { expect } from 'chai';
import { until } from '../support/until';
import { withVisit } from '../support/visit';

describe('a budget, as people make it and are notified of it', () => {
  const visit = withVisit({ minutes: 2, who: 'kaja', app: { env: { BUSSOLA_BILLS_MS: '300' } } });
  const tried = () => visit.region('Now and in past periods');
  const budgets = () => visit.region('Budgets');
  const mails = () =>
    visit.app.standIns.mailbox.mails.filter(({ subject }) => subject.includes('budget expected to be spent'));

  it('says what it is while there is none, and begins with the costs that are looked at', async function () {
    this.timeout(240_000);
    await until(
      'the bills',
      async () =>
        (await visit.app.db.rows('select 1 from bill_reads where settled_until is not null and last_error is null'))
          .length >= 4,
      60_000
    );
    await visit.page.goto(`${visit.app.origin}/cost?only.service=databases`);
    await budgets().getByText('A budget notifies people when a month').waitFor();
    await budgets().getByRole('link', { name: 'Add a budget' }).click();
    await visit.page.waitForURL(/\/cost\/budgets\/new\?only\.service=databases$/);
    expect(await visit.page.getByLabel('Which service').inputValue()).to.equal('databases');
  });

  it('shows while it is written how it would stand, and what months before would have said', async () => {
    await visit.page.getByRole('spinbutton', { name: 'Amount' }).fill('100');
    await tried().locator('[data-period="now"]').getByText('Raised as major now').waitFor();
    await tried()
      .getByText(/^Exceeded on 1 \w+$/)
      .first()
      .waitFor();
    await visit.page.getByRole('spinbutton', { name: 'Amount' }).fill('1000000');
    await tried().locator('[data-period="now"]').getByText('Not raised').waitFor();
    await tried().getByText('Within the amount').first().waitFor();
    await visit.page.getByRole('spinbutton', { name: 'Amount' }).fill('0');
    await tried().getByText('Complete the sentence to see it.').waitFor();
    await visit.button('Add the budget').click();
    await visit.page.getByRole('alert').getByText('Give the budget a name: its alarm has it as well.').waitFor();
  });

  it('is raised and mailed once its month is expected to pass it, and clears when it is not any more', async function () {
    this.timeout(300_000);
    await visit.page.getByLabel('Name', { exact: true }).fill('Databases');
    await visit.page.getByRole('spinbutton', { name: 'Amount' }).fill('500');
    await visit.button('Add the budget').click();
    await visit.page.waitForURL(/\/cost$/);
    const sentence = budgets().locator('[data-budget="Databases"]');
    await sentence.getByText('Notify by the routes when Databases is expected to pass €500 a month.').waitFor();
    await sentence.getByText(/^expected €[\d,]+, €[\d,.]+ until \d+ \w+$/).waitFor();
    await until(
      'the mail',
      async () => {
        visit.app.clock.pass(1);
        await visit.app.live(1);
        return mails().length > 0;
      },
      60_000
    );
    expect(mails()[0]?.subject).to.match(/^MAJOR Databases: budget expected to be spent \d+ % \(limit 100 %\)/);
    await sentence.getByRole('link').click();
    await visit.page.getByRole('spinbutton', { name: 'Amount' }).fill('900000');
    await visit.button('Save').click();
    await visit.page.getByText('The budget and its alarm are saved.').waitFor();
    await until(
      'the end of it',
      async () => {
        visit.app.clock.pass(1);
        await visit.app.live(1);
        const open = await visit.app.db.rows(
          `select 1 from incidents where alarm_name = 'Budget: Databases' and closed_at is null`
        );
        return open.length === 0;
      },
      60_000
    );
  });

  it('goes with its alarm', async () => {
    await visit.page.getByRole('link', { name: 'Its alarm' }).waitFor();
    await visit.button('Remove…').click();
    await visit.button('Remove').click();
    await visit.page.waitForURL(/\/cost$/);
    await budgets().getByText('A budget notifies people when a month').waitFor();
    const left = await visit.app.db.rows(
      `select 1 from alarms where name = 'Budget: Databases' and removed_at is null`
    );
    expect(left).to.deep.equal([]);
    expect(visit.complaints).to.deep.equal([]);
  });
});
