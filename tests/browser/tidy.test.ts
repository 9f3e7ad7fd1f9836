import { expect } from 'chai';
import { counts } from '../support/count';
import { programOf } from '../support/program';
import { withVisit } from '../support/visit';

describe('tidying up, as people do it', () => {
  const visit = withVisit({ minutes: 2, who: 'kaja' });

  it('lists what nobody uses, and removes several at once', async () => {
    const { app, page } = visit;
    const nerea = await programOf(app, 'nerea');
    for (const name of ['lonely', 'forgotten'])
      expect((await nerea('POST', '/channels', { name, address: `${name}@example.test` })).status).to.equal(201);
    await page.goto(`${app.origin}/tidy`);
    await page.getByRole('heading', { level: 1, name: /things are used by nobody\.$/ }).waitFor();
    const channels = visit.region('Channels without a route');
    await channels.getByLabel('Choose lonely').check();
    await channels.getByLabel('Choose forgotten').check();
    await visit.button('Remove 2 chosen…').click();
    await visit.button('Remove 2 chosen').click();
    await page.getByText('2 removed.').waitFor();
    await counts(channels.getByText('lonely'), 0);
    expect(await app.db.rows(`select 1 from channels where name in ('lonely', 'forgotten')`)).to.deep.equal([]);
    await visit.button('Restore lonely').click();
    await page.getByText('lonely is back as it was.').waitFor();
    await channels.getByText('lonely').waitFor();
    expect(await app.db.rows(`select confirmed_at from channels where name = 'lonely'`)).to.have.length(1);
    // What somebody made since they signed in, all at once.
    const made = visit.region('Made lately');
    await made.getByRole('combobox', { name: 'By whom' }).selectOption('Nerea Olmo');
    await made.getByRole('combobox', { name: 'Since when' }).selectOption('1');
    await made.getByRole('textbox', { name: 'Name or label' }).fill('LONE');
    await made.getByText('lonely').waitFor();
    await made.getByText('forgotten').waitFor({ state: 'detached' });
    await made.getByRole('button', { name: 'Choose all' }).click();
    await visit.button('Remove 1 chosen…').click();
    await visit.region('Made lately').getByText('Nothing.').waitFor({ state: 'detached' });
    await page.getByText('Nothing else names it.').waitFor();
    await visit.button('Remove 1 chosen').click();
    await made.getByText('Nothing.').waitFor();
    expect(await app.db.rows(`select 1 from channels where name = 'lonely'`)).to.deep.equal([]);
    await visit.region('Metrics that nothing looks at').getByRole('row').nth(3).waitFor();
    expect(visit.complaints).to.deep.equal([]);
  });
});
