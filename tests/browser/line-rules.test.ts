import { expect } from 'chai';
import { counts } from '../support/count';
import { withVisit } from '../support/visit';

describe('line rules, as an administrator sets them', () => {
  const visit = withVisit({ minutes: 2, who: 'kaja' });
  let key = '';

  async function send(...texts: string[]): Promise<void> {
    const time = new Date(visit.app.clock.now()).toISOString();
    const answer = await fetch(`${visit.app.origin}/api/v1/receive/lines`, {
      method: 'POST',
      headers: { authorization: `Bearer ${key}`, 'content-type': 'application/x-ndjson' },
      body: texts.map((msg) => JSON.stringify({ time, msg, 'service.name': 'prints' })).join('\n')
    });
    expect(answer.status).to.equal(200);
  }
  const found = async (search: string, text: string): Promise<void> => {
    await visit.page.goto(`${visit.app.origin}/logs?${new URLSearchParams({ q: search })}`);
    await visit.region('Lines').getByText(text).waitFor();
  };

  before(async () => {
    await visit.page.goto(`${visit.app.origin}/receive`);
    await visit.page.getByLabel('Name of the key and its account').fill('quay-printers');
    await visit.button('Make key').click();
    key = await visit.page.getByTestId('made-key').innerText();
  });

  it('secrets are proposed with what would be stored, and masked from then on', async () => {
    await send('ticket 7 for oda@corallo.test', 'printer is idle');
    await visit.page.goto(`${visit.app.origin}/line-rules`);
    await visit.button('Look for secrets').click();
    const proposal = visit.page.getByRole('article', { name: 'Mask every mail address' });
    await proposal.getByText('would be stored as').waitFor();
    expect(await proposal.innerText()).to.contain('ticket 7 for ‹mail address›');
    await proposal.getByRole('button', { name: /^Mask them/ }).click();
    await visit
      .region('Rules')
      .getByRole('row', { name: /Mail addresses/ })
      .waitFor();
    await counts(proposal, 0);
    await send('ticket 8 for ivo@corallo.test');
    await found('ticket and 8', 'ticket 8 for ‹mail address›');
  });

  it('lines are left out once it is tried, and the rule says how many', async () => {
    await visit.page.goto(`${visit.app.origin}/line-rules`);
    const form = visit.region('Add a rule');
    await form.getByLabel('Search for lines to leave out').fill('(printer');
    await form.getByRole('button', { name: 'Try it' }).click();
    await form.getByRole('alert').waitFor();
    await form.getByLabel('Search for lines to leave out').fill('printer and idle');
    await form.getByRole('button', { name: 'Try it' }).click();
    await form.getByText('It would leave out').waitFor();
    expect(await form.innerText()).to.contain('1 line');
    await form.getByLabel('Name').fill('Idle printers');
    await form.getByRole('button', { name: 'Add it' }).click();
    const row = visit.region('Rules').getByRole('row', { name: /Idle printers/ });
    await row.waitFor();
    await send('printer is idle', 'printer is busy');
    await visit.page.reload();
    await row.getByRole('cell', { name: '1', exact: true }).waitFor();
    await row.getByRole('button', { name: /^Remove…/ }).click();
    await row.getByRole('button', { name: 'Remove', exact: true }).click();
    await row.waitFor({ state: 'detached' });
  });

  it('never made the browser complain', () => {
    expect(visit.complaints).to.deep.equal([]);
  });
});
