import { expect } from 'chai';
import { until } from '../support/until';
import { withVisit } from '../support/visit';

describe('channels, as people add them', () => {
  const visit = withVisit({ minutes: 4 });
  const row = (name: string) => visit.page.getByRole('row').filter({ hasText: name }).first();
  const standIns = () => visit.app.standIns;
  const field = (name: string) => visit.page.getByLabel(name, { exact: true });

  async function add(kind: string, name: string, label: string, address: string): Promise<string> {
    await visit.page.goto(`${visit.app.origin}/channels`);
    await field('Kind').selectOption(kind);
    await field('Name').fill(name);
    await field(label).fill(address);
    await visit.page.getByRole('button', { name: /^Add and send/ }).click();
    const added = visit.page.getByRole('form', { name: 'Add a channel' }).getByRole('status');
    await added.waitFor();
    return added.innerText();
  }

  /** Confirms by the code that a text holds, and sees a test taken. */
  async function confirmAndTest(name: string, text: string): Promise<void> {
    const code = /\b(\d{6})\b/.exec(text)?.[1] ?? '';
    // By Enter: rows move as news arrive, also between pressing a button and letting go.
    await row(name).getByLabel(`Code for ${name}`).fill(code);
    await row(name).getByLabel(`Code for ${name}`).press('Enter');
    await row(name).getByText('✓').waitFor();
    await row(name).getByRole('button', { name: 'Send a test' }).click();
    await visit.page
      .getByRole('row', { name: `Test of ${name}` })
      .getByText('taken')
      .waitFor();
  }

  it('a text message: the number is checked, the code comes to the phone, a wrong one is refused', async () => {
    await visit.page.goto(`${visit.app.origin}/channels`);
    await field('Kind').selectOption('text-message');
    await field('Name').fill('Pocket');
    await field('Number').fill('0555');
    await visit.page.getByRole('button', { name: /^Add and send/ }).click();
    await visit.page.getByText('Give the number with its country').first().waitFor();
    await add('text-message', 'Pocket', 'Number', '+1 202 555 0177');
    const message = await until('the code', () => standIns().phone.messages.all[0]);
    expect(message.to).to.equal('+12025550177');
    await row('Pocket').getByLabel('Code for Pocket').fill('000000x');
    await row('Pocket').getByRole('button', { name: 'Confirm' }).click();
    await visit.page.getByRole('alert').filter({ hasText: 'This is not the code that was sent last' }).waitFor();
    await confirmAndTest('Pocket', message.text);
    await until('the test', () => standIns().phone.messages.all[0]?.text.startsWith('Test by Nerea Olmo'));
  });

  it('a chat hook: a template that cannot be used is refused, and nothing of its address is shown', async () => {
    await visit.page.goto(`${visit.app.origin}/channels`);
    await field('Kind').selectOption('chat-hook');
    await field('Name').fill('#harbour');
    await field('Address of the hook').fill(`${standIns().url}/chat/hooks/T5p0rt-bridge-7Qd2`);
    await visit.page.getByLabel(/^Template/).fill('{ "text": {{short}} }');
    await visit.page.getByRole('button', { name: /^Add and send/ }).click();
    await visit.page.getByText('With a message in it, this is no JSON').waitFor();
    await visit.page.getByLabel(/^Template/).fill('{ "content": { "body": "{{summary}}" } }');
    await visit.page.getByRole('button', { name: /^Add and send/ }).click();
    const post = await until('the code', () => standIns().chat.posts.all[0]);
    expect(post.room).to.equal('#bridge');
    await confirmAndTest('#harbour', post.text);
    expect(await visit.page.content()).not.to.contain('T5p0rt');
  });

  it('a signed webhook: its secret is shown once, its test is verified, and what refuses it is shown', async () => {
    const text = await add('webhook', 'Desk', 'Address', `${standIns().url}/desk/events`);
    const secret = /whsec_\S+/.exec(text)?.[0] ?? '';
    standIns().desk.secret = secret;
    const event = await until('the code', () => standIns().desk.events.all[0]);
    await confirmAndTest('Desk', event.text);
    await until('the test', () => {
      const [test] = standIns().desk.events.all;
      return test?.type === 'bussola.test' && test.verified;
    });
    await visit.page.reload();
    expect(await visit.page.content()).not.to.contain(secret);
    standIns().desk.behaving.current = 'refuse';
    await row('Desk').getByRole('button', { name: 'Send a test' }).click();
    await visit.page.getByRole('row', { name: 'Test of Desk' }).getByText('refused on purpose').first().waitFor();
    standIns().desk.behaving.current = 'well';
    await until(
      'taken at last',
      async () => (await visit.page.getByRole('row', { name: 'Test of Desk' }).getByText('taken').count()) > 0
    );
  });

  it('never made the browser complain', () => {
    expect(visit.complaints).to.deep.equal([]);
  });
});
