import { expect } from 'chai';
import { DateTime } from 'luxon';
import { counts } from '../support/count';
import { until } from '../support/until';
import { signedIn } from '../support/pages';
import { withVisit } from '../support/visit';

describe('who is notified, and who has the watch', () => {
  const visit = withVisit({ minutes: 6 });
  const open = (path: string) => visit.page.goto(`${visit.app.origin}${path}`);
  const part = (name: string) => visit.page.getByLabel(name, { exact: true });
  const choose = async (name: string, ...options: string[]): Promise<void> => {
    const trigger = visit.page.getByRole('button', { name: new RegExp(`^${name}: `) });
    await trigger.click();
    for (const option of options) await visit.page.getByRole('checkbox', { name: option, exact: true }).check();
    await visit.page.keyboard.press('Escape');
  };
  const routeRows = () => visit.page.locator('tr[data-route]');
  const tried = () => visit.page.getByTestId('tried');

  it('routes are added as sentences, tried, and put into another order', async () => {
    const { page } = visit;
    await open('/routes');
    await visit.button('Add a route').click();
    await visit.button('Add route').click();
    await page.getByRole('alert').filter({ hasText: 'Name the route by what it is for' }).waitFor();
    await part('Name').fill('Machines, grave');
    await choose('Severities', 'critical', 'major');
    await choose('Services', 'Machines');
    await choose('Who is notified', 'Machines on call');
    await visit.button('Add a step').click();
    await choose('Who is notified in step 2', 'Ivo Brandt');
    await part('Repeated').selectOption('every 20 min');
    await visit.button('Add route').click();
    await routeRows().filter({ hasText: 'critical or major on Machines' }).waitFor();
    const said = await routeRows().first().innerText();
    expect(said).to.contain(
      'Machines on call at once; after 15 min Ivo Brandt by e-mail, text message and push notification; repeated every 20 min until acknowledged'
    );
    expect(said).to.contain('Not confirmed: Ivo Brandt');
    await visit.button('Add a route').click();
    await part('Name').fill('All machines');
    await choose('Services', 'Machines');
    await choose('Who is notified', 'Machines on call');
    await visit.button('Add route').click();
    await routeRows().filter({ hasText: 'any severity on Machines' }).waitFor();
    await part('Resource tried').fill('booking-web-2');
    await tried().getByText('Machines, grave takes it').waitFor();
    await tried().getByText('+15 min').waitFor();
    await tried().getByText('nothing confirmed').first().waitFor();
    await part('Severity tried').selectOption('minor');
    await tried().getByText('It lacked the severity for Machines, grave').waitFor();
    await part('Severity tried').selectOption('critical');
    await visit.button('Move All machines up').click();
    await tried().getByText('All machines takes it').waitFor(); // by itself
    await until('the order', async () => (await routeRows().first().getAttribute('data-route')) === 'All machines');
  }).timeout(240_000);

  it('a rota is made, drawn while it is, and a swap counts once the other person accepts it', async () => {
    const { page, app, browser } = visit;
    await open('/rotas');
    await page.getByRole('heading', { name: 'Nobody is on call yet.' }).waitFor();
    await visit.button('New rota').click();
    await part('Name of the rota').fill('Machines');
    await page.getByRole('cell').getByText('Nerea Olmo').first().waitFor();
    await visit.button('Add a person').click();
    await part('Turn 2').selectOption('Ivo Brandt');
    await part('Handover').fill('00:00');
    await visit.button('Add rota').click();
    await page
      .getByRole('heading', { name: /^Nerea Olmo has the watch for Machines until .*, then Ivo Brandt\.$/ })
      .waitFor();
    await page.getByText('On call: Nerea Olmo').first().waitFor(); // in the helm
    await visit.button('Swap…').click();
    const today = DateTime.fromMillis(app.clock.now(), { zone: 'UTC' });
    const day = (days: number) => today.plus({ days }).toFormat("yyyy-MM-dd'T'12:00");
    await part('Person').selectOption('Ivo Brandt');
    await part('From').fill(day(8));
    await part('To').fill(day(9));
    await visit.button('Ask').click();
    await page.getByRole('alert').filter({ hasText: 'You do not have the watch throughout this time.' }).waitFor();
    await part('From').fill(day(1));
    await part('To').fill(day(2));
    await visit.button('Ask').click();
    await visit.button('Withdraw').waitFor();
    const ivo = await signedIn(browser, app, 'ivo');
    await ivo.page.goto(`${app.origin}/rotas`);
    await visit.button('Accept', ivo.page).click();
    await ivo.page.getByText('Ivo Brandt took it over').first().waitFor({ state: 'attached' });
    await page.getByText('Ivo Brandt took it over').first().waitFor({ state: 'attached' }); // by itself, in the other window
    expect(ivo.complaints).to.deep.equal([]);
    await ivo.page.context().close();
  }).timeout(180_000);

  it('whoever is woken acknowledges on the phone, by the link of the mail, without signing in', async () => {
    const { app, browser, page } = visit;
    const made = await page.request.post(`${app.origin}/api/v1/alarms`, {
      data: {
        name: 'Processor busy',
        signal: {
          ...{ version: 2, step: 'PT1M' },
          rows: [
            {
              name: 'a',
              metric: 'machine.processor.use',
              where: [{ label: 'resource', is: ['booking-web-2'] }],
              statistic: 'avg'
            }
          ]
        },
        rule: {
          levels: [{ severity: 'critical', condition: { kind: 'threshold', is: 'above', limit: 1 } }],
          ...{ window: { needs: 1, of: 1 }, whenMissing: 'keep' }
        }
      }
    });
    expect(made.status(), await made.text()).to.equal(201);
    await app.live(2);
    const mail = await until('the mail', () =>
      app.standIns.mailbox.mails.find(({ subject }) => subject.startsWith('CRITICAL booking-web-2'))
    );
    const link = /http:\/\/\S+\/a\/\S+/.exec(mail.text)?.[0];
    const phone = await (await browser.newContext({ viewport: { width: 390, height: 780 }, hasTouch: true })).newPage();
    await phone.goto(link!);
    await phone.getByText('raised since').waitFor();
    const width = await phone.evaluate(() => document.documentElement.scrollWidth);
    expect(width).to.be.at.most(390);
    await phone.getByRole('button', { name: /^Acknowledge it as/ }).tap();
    await phone.getByRole('status').filter({ hasText: 'looks after it' }).waitFor();
    await phone.reload();
    await counts(phone.getByRole('button', { name: /^Acknowledge/ }), 0);
    await phone.goto(`${link!.slice(0, -2)}AA`);
    await phone.getByText('This is no link of Bussola.').waitFor();
    await phone.context().close();
    await open('/outbox');
    await page.getByRole('row').filter({ hasText: 'CRITICAL booking-web-2' }).getByText('sent').waitFor();
    await page.getByRole('link', { name: /^CRITICAL booking-web-2/ }).click();
    await page.getByRole('row', { name: 'Attempts' }).getByText('taken').waitFor();
    // The swap that was refused.
    expect(visit.complaints.filter((one) => !one.includes('400 (Bad Request)'))).to.deep.equal([]);
  }).timeout(180_000);

  it('an incident is shelved with a reason, noted, handed over, and what is held back is listed', async () => {
    const { page, app } = visit;
    await open('/incidents');
    await page
      .getByRole('row', { name: /booking-web-2/ })
      .getByRole('link')
      .first()
      .click();
    await page.waitForURL(/incidents\/\d+$/);
    await page.getByRole('region', { name: 'What happened' }).getByText('Acknowledged.').waitFor();
    await page.keyboard.press('n');
    await page.keyboard.type('The queue is **long**.');
    await visit.button('Add note').click();
    await page.getByRole('region', { name: 'What happened' }).locator('strong', { hasText: 'long' }).waitFor();
    await visit.button('Take over').click();
    await page.getByTestId('acknowledged').getByText('Nerea Olmo looks after it').waitFor();
    await visit.button('Hand over…').click();
    await part('Hand over to').selectOption('Ivo Brandt');
    await visit.button('Hand over').click();
    await page.getByTestId('acknowledged').getByText('Ivo Brandt looks after it').waitFor();
    await page.getByRole('heading').first().click();
    await page.keyboard.press('s');
    const form = page.getByRole('form', { name: 'Shelve' });
    await form.getByRole('button', { name: 'Shelve' }).click();
    await form.getByRole('alert').filter({ hasText: 'Say why' }).waitFor();
    await part('Reason').fill('known, fixed tomorrow');
    await form.getByRole('button', { name: 'Shelve' }).click();
    await page.getByTestId('shelved').getByText('known, fixed tomorrow').waitFor();
    const review = await page.request.get(`${app.origin}/api/v1${new URL(page.url()).pathname}/review`);
    expect(await review.text())
      .to.contain('## What happened')
      .and.to.contain('The queue is **long**.');
    await open('/routes');
    const held = page.getByRole('region', { name: 'Held back' });
    await held.getByText('1 incident held back').waitFor();
    await visit.button('Plan maintenance…').click();
    await choose('Services', 'Databases');
    await part('How often').selectOption('every week');
    await part('Reason').fill('updates');
    await visit.button('Plan maintenance').click();
    await held.getByRole('row').filter({ hasText: 'any severity on Databases' }).getByText('recurs').waitFor();
    await held
      .getByRole('row')
      .filter({ hasText: 'known, fixed tomorrow' })
      .getByRole('button', { name: 'End now' })
      .click();
    await until('it is gone', async () => (await held.getByText('known, fixed tomorrow').count()) === 0);
  }).timeout(180_000);
});
