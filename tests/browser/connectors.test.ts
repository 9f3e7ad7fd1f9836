import { expect } from 'chai';
import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { grecaleKey } from '../../stand-ins/grecale/grecale';
import { shippedConnector } from '../support/connectors';
import { counts } from '../support/count';
import { signedIn } from '../support/pages';
import { programOf } from '../support/program';
import { until } from '../support/until';
import { withVisit } from '../support/visit';

const axe = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8');

describe('connectors, as an administrator writes one', () => {
  const visit = withVisit({ minutes: 1, who: 'kaja' });
  let address: string;

  /** Enters the credential that the try is made with. */
  async function credential(secret: string): Promise<void> {
    const { app, page } = visit;
    await page.getByLabel('Address', { exact: true }).fill(`${app.standIns.url}/grecale`);
    await page.getByLabel('Key', { exact: true }).fill(grecaleKey.name);
    await page.getByLabel('Secret', { exact: true }).fill(secret);
  }
  const editor = () => visit.page.getByLabel('The connector as a file');
  /** Replaces a part of what is written. */
  async function write(text: string): Promise<void> {
    await editor().click();
    await visit.page.keyboard.press('Control+A');
    // What replaces a selection is given its style by the browser, which the policy on content refuses.
    await visit.page.keyboard.press('Delete');
    await visit.page.keyboard.insertText(text);
  }
  const tryPart = async (part: string) => {
    await visit.page.getByLabel('What is requested').selectOption(part);
    await visit.button('Try it').click();
  };

  it('begin with an example, and are tried before they are saved', async () => {
    const { app, page } = visit;
    await page.goto(`${app.origin}/connectors`);
    await page.getByRole('link', { name: 'Write a connector' }).click();
    await page.getByLabel('Begin with').selectOption('grecale');
    await editor().getByText('key: grecale').waitFor();
    await credential('wrong');
    await tryPart('resources');
    const result = visit.region('What it is in Bussola');
    await result.getByRole('alert').filter({ hasText: 'The credential was refused. The seal is wrong.' }).waitFor();
    await credential(grecaleKey.secret);
    await tryPart('resources');
    await result.getByText('berth-notices').waitFor();
    await result.getByText('5 things').waitFor();
    const requests = visit.region('Requests and answers');
    await requests.getByText('2 requests').waitFor();
    await requests.getByText('GET /grecale/fleet?from=3').waitFor();
    expect(await requests.getByText('x-grecale-seal: signs in, not shown').count()).to.be.above(0);
    expect(await page.content()).to.not.include(grecaleKey.secret);
  });

  it('say what is wrong with its line, and are saved once nothing is', async () => {
    const { page } = visit;
    await write(shippedConnector('grecale').replace('by: metric', 'by: guess'));
    await visit.button('Save').click();
    const faults = visit.region('The file').getByRole('alert');
    await faults.getByText('points.by').waitFor();
    await write(shippedConnector('grecale').replace('each: notes', "each: 'notes['"));
    await visit.button('Save').click();
    await faults.getByText('events.each').waitFor();
    await write(shippedConnector('grecale'));
    await visit.button('Save').click();
    await page.waitForURL(/\/connectors\/\d+$/);
    address = page.url();
    await page.getByRole('heading', { name: 'Grecale', exact: true }).waitFor();
  });

  it('are recorded and tested without the provider; what differs is named', async () => {
    const { page } = visit;
    await credential(grecaleKey.secret);
    await tryPart('points');
    await visit.region('What it is in Bussola').getByText('queue.backlog').waitFor();
    await page.getByLabel('Name of the recording').fill('usual samples');
    await visit.button('Record it').click();
    const recordings = visit.region('Recordings');
    await recordings.getByText('usual samples').waitFor();
    await visit.button('Test on them').click();
    await recordings.getByText('all passed').waitFor();
    await write(
      shippedConnector('grecale').replace(
        '"resource": id, "metric": $metric',
        '"resource": id, "metric": "x." & $metric'
      )
    );
    await visit.button('Test on them').click();
    await recordings.getByText('! 0.metric: "queue.backlog" was recorded, now it is "x.queue.backlog".').waitFor();
  });

  it('are not lost by leaving, and not overwritten by somebody else’s', async () => {
    const { app, page } = visit;
    page.once('dialog', (dialog) => void dialog.dismiss());
    await page.getByRole('link', { name: 'Keys', exact: true }).click();
    expect(page.url()).to.equal(address);
    const kaja = await programOf(app, 'kaja');
    const id = address.split('/').pop();
    const { status } = await kaja('PUT', `/connectors/${id}`, {
      text: shippedConnector('grecale').replace('name: Grecale', 'name: Grecale quays'),
      version: 1
    });
    expect(status).to.equal(204);
    await visit.button('Save').click();
    await visit
      .region('The file')
      .getByRole('alert')
      .filter({ hasText: 'saved this connector after you opened it' })
      .waitFor();
    page.once('dialog', (dialog) => void dialog.accept());
    await page.goto(address);
    await page.getByRole('heading', { name: 'Grecale quays' }).waitFor();
  });

  it('are what an account is connected by: tested right by right, and read', async () => {
    const { app, page } = visit;
    await page.getByRole('link', { name: 'connect one' }).click();
    expect(await page.getByLabel('Provider').inputValue()).to.equal('grecale');
    await page.getByLabel('Name in Bussola').fill('quays');
    await page.getByLabel('Address of Grecale’s interface').fill(`${app.standIns.url}/grecale`);
    await page.getByLabel('Name of the key').fill(grecaleKey.name);
    await page.getByLabel('Secret').fill(grecaleKey.secret);
    await visit.button('Test it').click();
    await page.getByText('May list resources: 5 found.').waitFor();
    await visit.button('Connect').click();
    await page.waitForURL(/\/accounts\/\d+$/);
    await until('its resources', async () => {
      const rows = await app.db.rows(`select name from resources where name = 'quay-vela-host'`);
      return rows.length === 1;
    });
    await page.goto(`${app.origin}/connectors`);
    await page.getByRole('row').filter({ hasText: 'Grecale quays' }).getByText('1 account').waitFor();
    await page.goto(address);
    await visit.button('Remove…').first().click();
    await visit.button('Remove').first().click();
    await page.getByRole('alert').filter({ hasText: 'quays is read by it' }).waitFor();
  });

  it('are listed for everybody, written by administrators alone, and usable by everybody’s tools', async () => {
    const { app, page } = visit;
    const oda = await signedIn(visit.browser, app, 'oda');
    await oda.page.goto(`${app.origin}/connectors`);
    await oda.page.getByRole('cell', { name: 'Grecale quays' }).waitFor();
    await counts(oda.page.getByRole('link', { name: 'Grecale quays' }), 0);
    expect((await oda.page.goto(address))?.status()).to.equal(403);
    await oda.page.context().close();
    for (const where of ['/connectors', '/connectors/new', new URL(address).pathname]) {
      await page.goto(`${app.origin}${where}`);
      await page.evaluate(axe);
      const violations = await page.evaluate(() =>
        (
          globalThis as unknown as {
            axe: { run(): Promise<{ violations: { id: string; nodes: { html: string }[] }[] }> };
          }
        ).axe.run()
      );
      expect(
        violations.violations.map(({ id, nodes }) => `${id}: ${nodes[0]?.html}`),
        where
      ).to.deep.equal([]);
    }
  });

  it('never made the browser complain, but of what was refused', () => {
    expect(visit.complaints.filter((one) => !/status of (400|403|409)/.test(one))).to.deep.equal([]);
  });
});
