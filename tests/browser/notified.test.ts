import { expect } from 'chai';
import { plainSignal } from '../../src/lib/core/signal';

import { plainDetails, rule, threshold } from '../support/alarm';
import { until } from '../support/until';
import { programOf, type Call } from '../support/program';
import { runShell } from '../support/shell';
import { withVisit } from '../support/visit';

/** A picture of 2 by 2 pixels. */
const png =
  'iVBORw0KGgoAAAANSUhEUgAAAAIAAAACCAIAAAD91JpzAAAAFklEQVR4nGP8z8DAwMDAxMDAwMDAAAANHQEDasKb6QAAAABJRU5ErkJggg==';

describe('one stress of a machine, read where people read', () => {
  const visit = withVisit({ minutes: 4 });
  let program: Call;
  const incidents = async () =>
    ((await program('GET', '/incidents')).body as { incidents: { id: number; alarm: string; subject: string }[] })
      .incidents;
  const raised = () =>
    until('the incident', async () => (await incidents()).find(({ alarm }) => alarm === 'Four ways'));

  /** A channel that is confirmed, with the stand-ins' address where it has one there. */
  async function channel(body: object): Promise<number> {
    const { status, body: made } = await program('POST', '/channels', body);
    expect(status, JSON.stringify(made)).to.equal(201);
    const { id, signingSecret } = made as { id: number; signingSecret: string | null };
    if (signingSecret !== null) visit.app.standIns.desk.secret = signingSecret;
    await visit.app.db.rows('update channels set confirmed_at = 1 where id = $1', [id]);
    return id;
  }

  before(async () => {
    program = await programOf(visit.app, 'nerea');
  });

  it('what messages say is changed with a preview on a past incident, and refused with a name that there is not', async () => {
    const { page, app } = visit;
    await page.goto(`${app.origin}/channels`);
    await page.getByRole('link', { name: 'What messages say' }).click();
    await page.getByLabel('Subject of a mail').fill('{{severity}} {{wher}}');
    await visit.button('Save').click();
    await page.getByRole('alert').filter({ hasText: 'There is no “wher” in a message.' }).waitFor();
    await page.getByLabel('Subject of a mail').fill('[{{severity}}] {{subject}}: {{what}} {{value}}');
    await visit.button('Save').click();
    await page.getByRole('status').filter({ hasText: 'Saved' }).waitFor();
  });

  it('inbox, chat, phone and webhook have it', async () => {
    const { app, browser } = visit;
    const { url } = app.standIns;
    const page = await (await browser.newContext()).newPage();
    const ids = [
      await channel({ kind: 'email', name: 'Four, mail', address: 'four@example.test' }),
      await channel({ kind: 'chat-hook', name: 'Four, chat', address: `${url}/chat/hooks/T5p0rt-bridge-7Qd2` }),
      await channel({ kind: 'text-message', name: 'Four, phone', address: '+12025550171' }),
      await channel({ kind: 'webhook', name: 'Four, desk', address: `${url}/desk/events` })
    ];
    const route = await program('POST', '/routes', {
      place: 'named',
      route: {
        ...{ name: 'Four ways', when: {}, zone: 'UTC', group: { by: 'incident', wait: 0, atMostEvery: 0 } },
        steps: [{ after: 0, notify: ids.map((channelId) => ({ kind: 'channel', channelId })) }]
      }
    });
    expect(route.status, JSON.stringify(route.body)).to.equal(201);
    const where = [{ label: 'resource', is: ['booking-web-2'] }];
    const alarm = await program('POST', '/alarms', {
      ...plainDetails,
      ...{ name: 'Four ways', route: (route.body as { id: number }).id },
      signal: plainSignal({ metric: 'machine.processor.use', where, statistic: 'avg' }),
      rule: rule(1, 2, { levels: [threshold('above', 80)] })
    });
    expect(alarm.status, JSON.stringify(alarm.body)).to.equal(201);
    // As people do it at the stand-in.
    await page.goto(`${url}/levante`);
    const machine = page.locator('tr', { hasText: 'booking-web-2' }).first();
    await machine.getByLabel('Metric of booking-web-2').selectOption('all');
    await machine.getByLabel('Value of booking-web-2').fill('95');
    await machine.getByRole('button', { name: 'Stress booking-web-2' }).click();
    await page.getByText('booking-web-2 is stressed').waitFor();
    await app.live(4);
    await raised();
    const asUsual = /MAJOR booking-web-2: processor use 9\d.* \(limit 80 %\) since/;
    for (const [path, says] of [
      ['/mail', /^\[major\] booking-web-2: Processor use 9\d/],
      ['/chat', asUsual],
      ['/phone', asUsual],
      ['/desk', asUsual]
    ] as const)
      await until(`${path} has it`, async () => {
        await page.goto(url + path);
        return (await page.getByText(says).count()) > 0;
      });
    expect(await page.content(), 'the desk').to.contain('signature verified');
    await page.context().close();
  }).timeout(300_000);

  it('a note has a picture, `c` closes the incident with how it ended, and it can be opened again', async () => {
    const { page, app } = visit;
    const { id } = await raised();
    await page.goto(`${app.origin}/incidents/${id}`);
    const note = page.getByLabel('Note', { exact: true });
    await note.fill('The graph of the pier:\n\n');
    await page.getByLabel('Add a picture').setInputFiles({
      ...{ name: 'pier.png', mimeType: 'image/png', buffer: Buffer.from(png, 'base64') }
    });
    await until('its name is written', async () => /!\[pier\.png\]\(picture:\d+\)/.test(await note.inputValue()));
    await visit.button('Add note').click();
    const shown = page.getByRole('img', { name: 'pier.png' });
    await until('it is seen', () => shown.evaluate((image) => (image as HTMLImageElement).naturalWidth === 2));
    await page.getByLabel('Add a picture').setInputFiles({
      ...{ name: 'pier.png', mimeType: 'image/png', buffer: Buffer.from('no picture') }
    });
    await page.getByRole('alert').filter({ hasText: 'no picture that this browser can read' }).waitFor();
    const forged = await program('POST', `/incidents/${id}/pictures`, {
      data: Buffer.from('<svg/>').toString('base64')
    });
    expect([forged.status, (forged.body as { message: string }).message]).to.deep.equal([
      400,
      'This is no PNG, JPEG, WebP or GIF.'
    ]);
    await visit.region('Most unusual then').waitFor();
    await page.locator('h1').click(); // out of the text field, where keys are letters
    await page.keyboard.press('c');
    await page.getByLabel('It was').selectOption('expected');
    await page.getByLabel('What was done or found').fill('Load test of the booking pages.');
    await page.getByRole('form', { name: 'Close' }).getByRole('button', { name: 'Close' }).click();
    await page.getByTestId('outcome').getByText('Load test of the booking pages.').waitFor();
    expect((await incidents()).map((one) => one.id)).not.to.include(id);
    await page.goto(`${app.origin}/incidents`);
    await visit.region('Closed').getByText('expected').first().waitFor();
    await page.goto(`${app.origin}/incidents/${id}`);
    await visit.button('Open again').click();
    await page.getByRole('heading', { name: /booking-web-2 is raised/ }).waitFor();
  }).timeout(240_000);

  it('a topic has subscribers, who agree by a link and leave by one click of their mail program', async () => {
    const { page, app, browser } = visit;
    await page.goto(`${app.origin}/channels`);
    await page.getByLabel('Kind', { exact: true }).selectOption('topic');
    await page.getByLabel('Name', { exact: true }).fill('operations');
    await visit.button('Add topic').click();
    await page.getByText('operations is added').waitFor();
    await page.getByRole('link', { name: 'operations', exact: true }).first().click();
    await page.getByText('Nobody subscribes yet').waitFor();
    await page.getByLabel('Address', { exact: true }).fill('pier@example.test');
    await visit.button('Add and send the link').click();
    await page.getByText('A link was sent to pier@example.test').waitFor();
    const mail = (subject: string) =>
      until(subject, () =>
        app.standIns.mailbox.mails.find(
          (one) => one.to.includes('pier@example.test') && one.subject.startsWith(subject)
        )
      );
    const asked = await mail('Subscribe to "operations"');
    const stranger = await (await browser.newContext()).newPage();
    await stranger.goto(/http\S+\/confirm\/[\w-]+/.exec(asked.text)?.[0] ?? '');
    await stranger.getByRole('button', { name: 'Yes, send them to me' }).click();
    await stranger.getByText('subscribes to').waitFor();
    await until('it is confirmed', async () => (await page.getByRole('row').filter({ hasText: '✓' }).count()) === 1);
    const topic = page.url().split('/').at(-1);
    expect((await program('POST', `/channels/${topic}/test`)).status).to.equal(202);
    const { unsubscribe } = await mail('Test by');
    const leave = /<(http[^>]+)>/.exec(unsubscribe)?.[1] ?? '';
    await stranger.goto(leave);
    await stranger.getByRole('heading', { name: 'Leave operations?' }).waitFor();
    expect(await page.getByRole('row').filter({ hasText: '✓' }).count(), 'opening the link does nothing').to.equal(1);
    // What a mail program sends: no cookie, no origin.
    const left = await fetch(leave, {
      method: 'POST',
      headers: { 'content-type': 'application/x-www-form-urlencoded' },
      body: 'List-Unsubscribe=One-Click'
    });
    expect(left.status).to.equal(200);
    await page.getByText('Nobody subscribes yet').waitFor(); // by itself
    await stranger.reload();
    await stranger.getByRole('heading', { name: 'You have left' }).waitFor();
    await stranger.context().close();
  }).timeout(240_000);

  it('a device is added on itself and shows what it is sent', async () => {
    const { page, app } = visit;
    const device = app.standIns.devices.make();
    await page.context().grantPermissions(['notifications'], { origin: app.origin });
    await page.goto(`${app.origin}/profile`);
    // The push service of this browser is not reached from here: that of the stand-ins takes its place.
    await page.evaluate(
      `PushManager.prototype.subscribe = async () => ({ toJSON: () => (${JSON.stringify(device)}) })`
    );
    await page.getByLabel('Name of this device').fill('Bridge computer');
    await visit.button('Notify this device').click();
    await page.getByText('This device is added.').waitFor();
    await visit.region('Devices').getByText('Bridge computer').waitFor();
    await visit.button('Send test').click();
    const shown = await until('the notification', () => app.standIns.devices.notifications.all[0]);
    expect(shown.title).to.equal('Test by Nerea Olmo');
    // What the device does with it.
    const devtools = await page.context().newCDPSession(page);
    const registered = new Promise<string>((found) =>
      devtools.on('ServiceWorker.workerRegistrationUpdated', ({ registrations }) => {
        if (registrations[0]) found(registrations[0].registrationId);
      })
    );
    await devtools.send('ServiceWorker.enable');
    const data = JSON.stringify({ title: shown.title, body: shown.body, link: shown.link, tag: 'x' });
    await devtools.send('ServiceWorker.deliverPushMessage', {
      ...{ origin: app.origin, registrationId: await registered, data }
    });
    await until('it is shown', () =>
      page.evaluate(async () => {
        const registration = await navigator.serviceWorker.getRegistration();
        return (await registration?.getNotifications())?.some(({ title }) => title === 'Test by Nerea Olmo');
      })
    );
    app.standIns.devices.lose(device.endpoint);
    await visit.button('Send test').click();
    await page.getByText('takes notifications no longer').waitFor();
  }).timeout(180_000);

  it('people add a number of their own, whatever their role; nobody confirms or removes it for them', async () => {
    const { app } = visit;
    const oda = await programOf(app, 'oda');
    expect((await oda('POST', '/me/addresses', { kind: 'text-message', address: '0555' })).status).to.equal(400);
    const added = await oda('POST', '/me/addresses', { kind: 'text-message', address: '+1 202 555 0166' });
    expect(added.status, JSON.stringify(added.body)).to.equal(201);
    const { id } = added.body as { id: number };
    const text = await until('the code', () => app.standIns.phone.messages.all.find(({ to }) => to === '+12025550166'));
    const code = /\b(\d{6})\b/.exec(text.text)?.[1] ?? '';
    expect((await program('POST', `/me/addresses/${id}/confirm`, { code })).status, 'as somebody else').to.equal(404);
    expect((await program('DELETE', `/me/addresses/${id}`)).status).to.equal(404);
    const confirmed = await oda('POST', `/me/addresses/${id}/confirm`, { code });
    expect((confirmed.body as { confirmedAt: number | null }).confirmedAt).not.to.equal(null);
    const [row] = await app.db.rows<{ person: string }>(
      'select people.name as person from channels join people on people.id = person_id where channels.id = $1',
      [id]
    );
    expect(row?.person).to.equal('oda');
    expect((await oda('DELETE', `/me/addresses/${id}`)).status).to.equal(204);
  }).timeout(90_000);

  it('routes, rotas and channels leave as a file and are planned from a shell and on a page', async () => {
    const { page, app } = visit;
    const exported = await runShell(app.origin, 'on-call', 'export');
    expect(exported.code, exported.said).to.equal(0);
    expect(exported.said).to.contain('name: Four ways').and.not.to.contain('T5p0rt');
    await page.goto(`${app.origin}/routes`);
    await page.getByRole('link', { name: 'As a file' }).click();
    await page.getByLabel('The things as a file').fill(exported.said.replace('name: Four ways', 'name: Five ways'));
    await visit.button('See what would change').click();
    await page.locator('[data-planned="Five ways"]').getByText('new route').waitFor();
    await visit.button('Apply it').click();
    await page.getByText('Applied: 1 thing stored.').waitFor();
    const { routes } = (await program('GET', '/routes')).body as { routes: { route: { name: string } }[] };
    expect(routes.map(({ route }) => route.name))
      .to.include('Five ways')
      .and.include('Four ways');
  }).timeout(180_000);

  it('never made the browser complain', () => {
    // The forged file was refused on purpose; a browser says so of whatever is refused.
    expect(visit.complaints.filter((text) => !text.includes('400'))).to.deep.equal([]);
  });
});
