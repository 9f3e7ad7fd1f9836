import { expect } from 'chai';
import { counts } from '../support/count';
import { until } from '../support/until';
import { signedIn } from '../support/pages';
import { withVisit } from '../support/visit';

describe('a summary, as people read and send it', () => {
  const visit = withVisit({ minutes: 2, who: 'nerea', app: { days: 15 } });
  const mails = () => visit.app.standIns.mailbox.mails.filter(({ subject }) => subject.startsWith('Week for the crew'));
  let link = '';

  it('says what the last week came to, in words and numbers, and goes from week to week', async () => {
    const { app, page } = visit;
    await page.goto(`${app.origin}/summary`);
    const short = page.getByRole('list', { name: 'In short' });
    await short
      .getByText(/raised/)
      .first()
      .waitFor();
    expect(await visit.region('Services').getByRole('row').count()).to.be.above(3);
    await visit.region('Sent regularly').getByText('Send one').waitFor();
    const title = await page.getByRole('heading', { level: 1 }).innerText();
    await page.getByRole('link', { name: 'The week before' }).click();
    await page.waitForURL(/of=/);
    await until('another week', async () => (await page.getByRole('heading', { level: 1 }).innerText()) !== title);
    await page.getByRole('link', { name: 'month', exact: true }).click();
    await page.getByRole('heading', { level: 1, name: /^[A-Z][a-z]+ 20\d\d/ }).waitFor();
    await short.waitFor();
  });

  it('is taken as a PDF and as numbers', async () => {
    const { app, page } = visit;
    await page.goto(`${app.origin}/summary`);
    await visit.region('Services').waitFor();
    for (const [name, begin] of [
      ['PDF', '%PDF-'],
      ['Numbers as CSV', 'part,what,unit,value,before']
    ] as const) {
      const href = await page.getByRole('link', { name, exact: true }).getAttribute('href');
      const answer = await page.request.get(`${app.origin}${href}`);
      expect(answer.status()).to.equal(200);
      expect((await answer.body()).subarray(0, begin.length).toString()).to.equal(begin);
    }
  });

  it('is sent regularly once somebody has said to whom; the newest at once, with its pictures and files', async () => {
    const { app, page } = visit;
    await page.getByRole('link', { name: 'Send it regularly' }).click();
    await page.getByRole('button', { name: 'Add the summary' }).click();
    await page.getByText('Give the summary a name.').waitFor();
    await page.getByRole('textbox', { name: 'Name' }).fill('Week for the crew');
    await page.getByRole('button', { name: 'Add the summary' }).click();
    await page.getByText('Choose at least one channel.').waitFor();
    await page.getByRole('checkbox', { name: 'Machines on call' }).check();
    // News that arrive change nothing of what is typed.
    await app.live(1);
    expect(await page.getByRole('textbox', { name: 'Name' }).inputValue()).to.equal('Week for the crew');
    await page.getByRole('button', { name: 'Add the summary' }).click();
    await page.waitForURL(/\/summary$/);
    await visit.region('Sent regularly').getByRole('link', { name: 'Week for the crew' }).click();
    await page.getByRole('button', { name: 'Send the newest now' }).click();
    await page.getByText('It was sent to 1 channel.').waitFor();
    await until('the mail', () => mails().length > 0);
    const [mail] = mails();
    expect(mail?.files.map(({ type }) => type)).to.deep.equal(['application/pdf', 'text/csv']);
    expect(mail?.html).to.contain('raised');
    link = /href="([^"]*\/read\/[^"]*)"/.exec(mail?.html ?? '')?.[1] ?? '';
    expect(link).to.contain('/read/');
  });

  it('is read by its link without signing in, until that is ended', async () => {
    const { app, page } = visit;
    const context = await visit.browser.newContext();
    const stranger = await context.newPage();
    await stranger.goto(link);
    await stranger.getByRole('heading', { level: 1, name: /^Week for the crew/ }).waitFor();
    await stranger.getByRole('list', { name: 'In short' }).waitFor();
    expect(await stranger.getByRole('link', { name: /machines/i }).count(), 'nothing leads inside').to.equal(0);
    const csv = await stranger.request.get(
      `${app.origin}${await stranger.getByRole('link', { name: 'Numbers as CSV' }).getAttribute('href')}`
    );
    expect(await csv.text()).to.match(/^part,what/);
    await page.goto(`${app.origin}/summary`);
    await visit.region('Sent and shared before').getByRole('link', { name: 'Week for the crew' }).first().click();
    await page.getByRole('button', { name: 'End the link…' }).click();
    await page.getByRole('button', { name: 'End the link', exact: true }).click();
    await page.getByText('The link was ended.').waitFor();
    await stranger.reload();
    await stranger.getByText('This link leads to no summary any more.').waitFor();
    await context.close();
  });

  it('is shared by a link that somebody makes, and is not sent by whoever may only look', async () => {
    const { app, page } = visit;
    await page.goto(`${app.origin}/summary`);
    await page.getByRole('button', { name: 'Make a link' }).click();
    const made = await page.getByTestId('link').innerText();
    expect((await page.request.get(made)).status()).to.equal(200);
    const oda = await signedIn(visit.browser, app, 'oda');
    await oda.page.goto(`${app.origin}/summary`);
    await oda.page.getByRole('region', { name: 'Services' }).waitFor();
    await counts(oda.page.getByRole('button', { name: 'Make a link' }), 0);
    const refused = await oda.page.request.post(`${app.origin}/api/v1/summaries`, { data: { kind: 'week' } });
    expect(refused.status()).to.equal(403);
    expect((await oda.page.request.get(`${app.origin}/api/v1/summary`)).status()).to.equal(200);
    await oda.page.context().close();
    expect(visit.complaints).to.deep.equal([]);
  });
});
