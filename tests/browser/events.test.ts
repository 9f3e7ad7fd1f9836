import { expect } from 'chai';
import { CloudEvent, HTTP } from 'cloudevents';
import { counts } from '../support/count';
import { withVisit } from '../support/visit';

describe('events, as whoever is woken by them sees them', () => {
  const visit = withVisit({ minutes: 2 });
  let key = '';
  let sent = 0;

  /** Sends an event as a program does, by the SDK in binary mode. */
  async function send(type: string, subject: string, data: object): Promise<void> {
    const event = new CloudEvent({
      ...{ id: `e-${++sent}`, source: '/release-robot', type, subject, data },
      time: new Date(visit.app.clock.now()).toISOString()
    });
    const { headers, body } = HTTP.binary(event);
    const response = await fetch(`${visit.app.origin}/api/v1/receive/events`, {
      method: 'POST',
      headers: { ...(headers as Record<string, string>), authorization: `Bearer ${key}` },
      body: String(body)
    });
    expect(await response.json()).to.deep.include({ accepted: 1, rejected: 0 });
  }
  const rows = () => visit.region('Events').locator('tbody tr');

  it('says how events come, and takes them from a program by CloudEvents', async () => {
    await visit.page.goto(`${visit.app.origin}/events?range=PT5M`);
    await visit.page.goto(`${visit.app.origin}/receive`);
    await visit.page.getByLabel('Name of the key and its account').fill('release-robot');
    expect(await visit.page.getByLabel('send events').isChecked()).to.equal(true);
    await visit.button('Make key').click();
    key = await visit.page.getByTestId('made-key').innerText();
    await send('test.corallo.release.failed', 'booking-web-1', {
      message: '12.4 was not released: two copies did not answer.',
      version: '12.4'
    });
    await visit.page.goto(`${visit.app.origin}/events`);
    await rows().filter({ hasText: '12.4 was not released' }).waitFor();
  });

  it('shows an event whole, filters the list, and has what Bussola did beside it', async () => {
    await visit.page.getByRole('button', { name: '12.4 was not released: two copies did not answer.' }).click();
    const event = visit.region('This event');
    await event.getByText('test.corallo.release.failed').waitFor();
    await event.getByText('version').waitFor();
    await counts(event.getByRole('link', { name: 'booking-web-1' }), 1);
    await visit.page.getByLabel('Text').fill('no such thing');
    await send('test.corallo.release.begun', 'booking-web-1', { message: '12.5 is on its way.' });
    await rows().filter({ hasText: '12.5 is on its way.' }).waitFor();
    expect(await visit.page.getByLabel('Text').inputValue(), 'news leave what is typed').to.equal('no such thing');
    await visit.page.getByLabel('Text').press('Enter');
    await visit.page.getByText('Nothing in the last day matches.').waitFor();
    await visit.page.getByRole('link', { name: 'Show all', exact: true }).click();
    await rows().filter({ hasText: '12.4 was not released' }).waitFor();
    expect(await visit.page.getByLabel('Text').inputValue()).to.equal('');
    await visit.page.getByLabel('From', { exact: true }).selectOption('Programs');
    await visit.page.waitForURL(/origin=program/);
    await visit.page.getByRole('heading', { level: 1, name: '2 events', exact: true }).waitFor();
    await counts(rows().filter({ hasText: 'incident' }), 0);
    await counts(rows().filter({ hasText: '12.4 was not released' }), 1);
  });

  it('a rule is made of it, and says what it would have done before it is added', async () => {
    await visit.page.getByRole('button', { name: '12.4 was not released: two copies did not answer.' }).click();
    await visit.page.getByRole('link', { name: 'Make a rule of it' }).click();
    await visit.page.getByLabel('Name').fill('Release failed');
    const tried = visit.region('Tried on the past');
    await tried.getByText('1 incident', { exact: false }).waitFor();
    await tried.getByText('would be raised still').waitFor();
    await visit.page.getByLabel('Resources of events that raise').fill('nothing-*');
    await tried.getByText('No incident').waitFor();
    await visit.page.getByLabel('Resources of events that raise').fill('booking-*');
    await visit.page.getByLabel('Severity').selectOption('critical');
    await visit.page.getByLabel('What clears it').selectOption('event');
    await visit.button('Add the rule').click();
    await visit.page.getByText('Say which events clear it.').waitFor();
    await visit.page.getByLabel('Types of events that clear').fill('test.corallo.release.finished');
    await visit.button('Add the rule').click();
    await visit.page.getByRole('heading', { level: 1, name: 'Release failed' }).waitFor();
    expect(visit.page.url()).to.match(/\/event-rules\/\d+$/);
  });

  it('the next event raises an incident with its events, and another clears it while one looks', async () => {
    await send('test.corallo.release.failed', 'booking-web-1', { message: '12.5 was not released.' });
    await visit.page.goto(`${visit.app.origin}/incidents`);
    await visit.page
      .getByRole('row', { name: /booking-web-1/ })
      .getByRole('link', { name: 'Release failed' })
      .click();
    await visit.page.getByRole('heading', { level: 1, name: /booking-web-1 is raised: release failed/ }).waitFor();
    const events = visit.region('Its events');
    await events.getByText('12.5 was not released.').waitFor();
    await counts(events.locator('[data-effect=raises]'), 1);
    await send('test.corallo.release.finished', 'booking-web-1', { message: '12.5 was released.' });
    await visit.page.getByRole('heading', { level: 1, name: /is clear again: release failed/ }).waitFor();
    await events.locator('[data-effect=clears]').filter({ hasText: '12.5 was released.' }).waitFor();
  });

  it('a rule is changed by one at a time, and removed', async () => {
    await visit.page.getByRole('link', { name: 'Open the event rule' }).click();
    await visit.page.getByRole('heading', { level: 1, name: 'Release failed' }).waitFor();
    const id = Number(/\d+$/.exec(visit.page.url())?.[0]);
    const answer = await visit.page.request.get(`${visit.app.origin}/api/v1/event-rules`);
    const { rules } = (await answer.json()) as { rules: { id: number; rule: object }[] };
    const rule = rules.find((one) => one.id === id)?.rule;
    await visit.page.getByLabel('Name').fill('Release broke');
    const data = { rule: { ...rule, severity: 'minor' }, version: 1 };
    expect((await visit.page.request.put(`${visit.app.origin}/api/v1/event-rules/${id}`, { data })).status()).to.equal(
      200
    );
    await visit.button('Save').click();
    await visit.page.getByRole('alert').filter({ hasText: 'changed this rule meanwhile' }).waitFor();
    await visit.page.reload();
    await visit.button('Remove…').click();
    await visit.button('Remove').click();
    await visit.page.waitForURL(/\/events/);
    await counts(visit.region('Event rules').getByText('Release'), 0);
  });

  it('never made the browser complain', () => {
    expect(visit.complaints.filter((one) => !one.includes('409'))).to.deep.equal([]);
  });
});
