import { expect } from 'chai';
import { Webhook } from 'standardwebhooks';
import { confirmChannel } from '../../src/lib/server/notify/channel-confirmation';
import { programOf } from '../support/program';
import { Receiver } from '../support/receiver';
import { until } from '../support/until';
import { withVisit } from '../support/visit';
import { counts } from '../support/count';
import { signedIn } from '../support/pages';

describe('followers of changes, as administrators and their programs have them', () => {
  const visit = withVisit({ who: 'kaja', minutes: 1 });
  const receiver = new Receiver();
  let secret = '';
  const of = () => visit.region('Stock of alarms');
  const change = (text: string) => of().locator('[data-change]').filter({ hasText: text });

  before(async function () {
    this.timeout(60_000);
    const address = await receiver.open();
    const kaja = await programOf(visit.app, 'kaja');
    const made = await kaja('POST', '/channels', { kind: 'webhook', name: 'Stock of alarms', address });
    const body: { id: number; signingSecret: string } = made.body;
    secret = body.signingSecret;
    await until('its code', () => receiver.received.length > 0);
    await confirmChannel(visit.app.db, body.id, visit.app.clock.now());
  });
  after(() => receiver.close());

  it('says what a follower is, and makes one of a webhook', async () => {
    const { page, app } = visit;
    await page.goto(`${app.origin}/followers`);
    await page.getByRole('heading', { level: 1, name: 'No program is sent changes' }).waitFor();
    const form = visit.region('New follower');
    await form
      .getByLabel('Webhook')
      .selectOption({ label: (await form.getByRole('option', { name: /^Stock/ }).innerText()).trim() });
    await form.getByLabel('changes of some kinds').check();
    await form.getByLabel('Marks', { exact: true }).check();
    await form.getByLabel('Signals', { exact: true }).check();
    // News arrives while it is chosen: what was chosen stays.
    const nerea = await programOf(app, 'nerea');
    await nerea('POST', '/channels', { name: 'Night', address: 'night@corallo.example.test' });
    await until(
      'the message left',
      async () => (await app.db.rows("select 1 from outbox where state = 'sent'")).length > 0
    );
    expect(await form.getByLabel('Marks', { exact: true }).isChecked()).to.equal(true);
    await form.getByRole('button', { name: 'Send changes to it' }).click();
    await page.getByRole('heading', { level: 1, name: '1 program is sent changes' }).waitFor();
    await of().getByText('marks, signals').waitFor();
    await of().getByText('All was sent.').waitFor();
    await form.getByText('Each webhook follows already').waitFor();
  });

  it('shows what was sent as it is sent, which the program can verify', async () => {
    const nerea = await programOf(visit.app, 'nerea');
    receiver.received.length = 0;
    await nerea('POST', '/marks', { text: 'Release 12.4', from: new Date(visit.app.clock.now()).toISOString() });
    await nerea('POST', '/channels', { name: 'Day', address: 'day@corallo.example.test' });
    await change('Release 12.4').getByText('204').waitFor();
    await change('Release 12.4').getByText('Nerea Olmo').waitFor();
    await counts(of().locator('[data-change]'), 1);
    const [{ headers, body }] = receiver.received as [(typeof receiver.received)[0]];
    expect(String(headers['webhook-signature'])).to.equal(
      new Webhook(secret).sign(
        String(headers['webhook-id']),
        new Date(Number(headers['webhook-timestamp']) * 1000),
        body
      )
    );
    expect(JSON.parse(body)).to.deep.include({ type: 'bussola.change.marks' });
  });

  it('says what takes nothing, since when, and goes on once it does', async () => {
    const nerea = await programOf(visit.app, 'nerea');
    receiver.answer = 503;
    await nerea('POST', '/marks', { text: 'Release 12.5', from: new Date(visit.app.clock.now()).toISOString() });
    await visit.page.getByRole('heading', { level: 1, name: '1 follower takes nothing' }).waitFor();
    await of()
      .getByText(/answered 503/)
      .waitFor();
    await change('Release 12.5').getByText('waits').waitFor();
    receiver.answer = 200;
    visit.app.clock.pass(2);
    await change('Release 12.5').getByText('200').waitFor();
    await of().getByText('All was sent.').waitFor();
  });

  it('is changed, switched off, and removed', async () => {
    await of().getByRole('button', { name: 'Change', exact: true }).click();
    await of().getByLabel('every change').check();
    await of().getByRole('button', { name: 'Save' }).click();
    await of().locator('header').getByText('every change').waitFor();
    // That change is one itself.
    await change('Changes what a follower is sent').getByText('200').waitFor();
    await of().getByRole('button', { name: 'Switch off' }).click();
    await of()
      .getByText(/^Off: nothing that changes now/)
      .waitFor();
    await of().getByRole('button', { name: 'Remove…' }).click();
    await of().getByRole('button', { name: 'Remove', exact: true }).click();
    await visit.page.getByRole('heading', { level: 1, name: 'No program is sent changes' }).waitFor();
    expect(visit.complaints).to.deep.equal([]);
  });

  it('is for administrators', async () => {
    const nerea = await signedIn(visit.browser, visit.app, 'nerea');
    const answer = await nerea.page.goto(`${visit.app.origin}/followers`);
    expect(answer?.status()).to.equal(403);
    await nerea.page.goto(`${visit.app.origin}/operations`);
    await counts(nerea.page.getByRole('link', { name: 'Followers', exact: true }), 0);
  });
});
