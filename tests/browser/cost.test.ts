import { readFileSync } from 'node:fs';
import { expect } from 'chai';
import { counts } from '../support/count';
import { until } from '../support/until';
import { withVisit } from '../support/visit';

describe('costs, as people read them', () => {
  const visit = withVisit({ minutes: 2, who: 'kaja', app: { env: { BUSSOLA_BILLS_MS: '300' } } });
  const group = (name: string) => visit.page.locator(`tr[data-group="${name}"]`);
  const isRead = async () => {
    const rows = await visit.app.db.rows<{ count: number }>(
      'select count(distinct account_id)::integer as count from bill_reads where history_from is not null'
    );
    const accounts = await visit.app.db.rows(
      `select 1 from accounts where provider in ('levante', 'ostro', 'maestro')`
    );
    return rows[0]?.count === accounts.length;
  };

  it('says what a month costs, until which day, and what it is expected to', async function () {
    this.timeout(240_000);
    await until('the bills', isRead, 60_000);
    await visit.page.goto(`${visit.app.origin}/cost`);
    await visit.page
      .getByRole('heading', { level: 1, name: /^\w+ (will cost about|has cost) €[\d,.]+( so far)?\.$/ })
      .waitFor();
    await visit.page.getByText(/€[\d,.]+ until \d+ \w+/).waitFor();
    await group('Databases').waitFor();
  });

  it('says what is not included for want of a rate, and takes one', async () => {
    await visit.page.getByText(/CHF.[\d,.]+ is not included: there is no rate from CHF to EUR/).waitFor();
    await visit.page.getByRole('link', { name: 'Add a rate' }).click();
    await visit.page.waitForURL(/\/bills#rates$/);
    await visit.page.getByLabel('Currency', { exact: true }).fill('chf');
    await visit.page.getByLabel('From the day').fill('2026-01-01');
    await visit.page.getByLabel('Rate', { exact: true }).fill('1.05');
    await visit.button('Add rate').click();
    await visit.region('Rates').getByRole('cell', { name: '1.05' }).waitFor();
    await visit.page.goto(`${visit.app.origin}/cost`);
    await group('Objects').waitFor();
    await counts(visit.page.getByText('is not included'), 0);
  });

  it('names the store that doubled, with its day, and nothing else', async function () {
    this.timeout(180_000);
    const changed = visit.region('What changed');
    await changed
      .locator('[data-change="manifest-archive"]')
      .getByText(/a day since \d+ \w+: twice as much$/)
      .waitFor();
    await counts(changed.locator('[data-change]'), 1);
  });

  it('leads from a service to its resources, to what of them is charged, and back by the address', async () => {
    await group('Objects').getByRole('link').click();
    await visit.page.waitForURL(/by=resource&only\.service=objects/);
    await group('manifest-archive').getByRole('link').click();
    await visit.page.waitForURL(/by=usage/);
    await group('stored bytes').waitFor();
    await visit.page.getByRole('link', { name: /^resource manifest-archive/ }).click();
    await visit.page.waitForURL((url) => !url.search.includes('only.resource'));
    await group('stored bytes').waitFor();
    await visit.page.goBack();
    await visit.page.waitForURL(/only\.resource/);
    await visit.page.goBack();
    await group('manifest-archive').waitFor();
    await visit.page.getByRole('link', { name: 'A month earlier' }).click();
    await visit.page.getByRole('heading', { level: 1, name: / cost €[\d,.]+ for what is shown\.$/ }).waitFor();
  });

  it('writes a FOCUS file, and reads it back: nothing changes; a row that is wrong is named', async function () {
    this.timeout(180_000);
    await visit.page.goto(`${visit.app.origin}/bills`);
    const [download] = await Promise.all([
      visit.page.waitForEvent('download'),
      visit.button('Download as FOCUS').click()
    ]);
    const path = await download.path();
    const text = readFileSync(path, 'utf8');
    expect(text.split('\r\n')[0]).to.match(/^AvailabilityZone,BilledCost,BillingAccountId/);
    const rows = text.trimEnd().split('\r\n');
    expect(rows.length).to.be.above(100);
    const broken = [...rows, (rows[1] as string).replace(',Usage,', ',Sausage,')].join('\r\n');
    await visit.page
      .getByLabel('FOCUS file')
      .setInputFiles({ name: 'costs.csv', mimeType: 'text/csv', buffer: Buffer.from(broken) });
    await visit.page.getByText(/rows, of which 1 cannot be read\.$/).waitFor();
    await visit.page
      .getByText(new RegExp(`Line ${rows.length + 1}: ChargeCategory is "Sausage": expected one of`))
      .waitFor();
    await visit.page.getByRole('button', { name: /^Import \d accounts?$/ }).click();
    await visit
      .region('Import')
      .getByText(/entries imported, 0 days changed\.$/)
      .first()
      .waitFor();
    expect(visit.complaints).to.deep.equal([]);
  });

  it('says of a file that is none why it cannot be read', async () => {
    const send = (buffer: Buffer) =>
      visit.page.getByLabel('FOCUS file').setInputFiles({ name: 'costs.csv', mimeType: 'text/csv', buffer });
    await send(Buffer.from('a,b\n1,2\n'));
    await visit.page.getByText('The column BilledCost is missing.').waitFor();
    await send(Buffer.from([0x1f, 0x8b, 8, 0, 1, 2, 3]));
    await visit.page.getByText('The file is damaged: it cannot be unpacked.').waitFor();
  });
});
