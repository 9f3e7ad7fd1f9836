import { expect } from 'chai';
import { instant, textFromInstant } from '../../src/lib/core/time';
import { counts } from '../support/count';
import { signedIn } from '../support/pages';
import { withVisit } from '../support/visit';

describe('pictures, alarms and metrics of lines, as people make them', () => {
  const visit = withVisit({ minutes: 2 });

  let key = '';
  /** Sends lines as a program does. */
  async function send(lines: readonly object[]): Promise<void> {
    const answer = await fetch(`${visit.app.origin}/api/v1/receive/lines`, {
      method: 'POST',
      headers: { authorization: `Bearer ${key}`, 'content-type': 'application/x-ndjson' },
      body: lines.map((line) => JSON.stringify(line)).join('\n')
    });
    expect(await answer.json()).to.deep.include({ accepted: lines.length, rejected: 0 });
  }

  before(async () => {
    const { page, app } = visit;
    await page.goto(`${app.origin}/receive`);
    await page.getByLabel('Name of the key and its account').fill('collector');
    await visit.button('Make key').click();
    key = await page.getByTestId('made-key').innerText();
    const now = app.clock.now();
    const texts = [200, 200, 503, 200, 500].map((status, index) => `GET /fares answered ${status} in ${10 + index} ms`);
    await send(
      [...texts, 'gate opens'].map((msg, index) => ({
        ...{ time: textFromInstant(instant(now - (600 - 60 * index) * 1000)), msg, 'service.name': 'quote' },
        level: msg.includes(' 50') ? 'error' : 'info'
      }))
    );
  });

  const drawn = () => visit.page.getByRole('region', { name: 'Preview' });
  /** Marks a part of the first sample line that has it, as a person does with the pointer. */
  const mark = (part: string): Promise<void> =>
    visit.page
      .getByTestId('sample')
      .filter({ hasText: part })
      .first()
      .evaluate((line, marked) => {
        const text = line.firstChild as Text;
        const from = text.data.indexOf(marked);
        getSelection()?.setBaseAndExtent(text, from, text, from + marked.length);
        line.dispatchEvent(new PointerEvent('pointerup', { bubbles: true }));
      }, part);

  it('a search is charted in one click, and apart by what is marked in a line', async () => {
    const { page, app } = visit;
    await page.goto(`${app.origin}/logs?${new URLSearchParams({ q: 'fares' })}`);
    await page.getByRole('heading', { level: 1, name: '5 lines', exact: true }).waitFor();
    await page.getByRole('link', { name: 'Chart this' }).click();
    await page.getByTestId('sentence').filter({ hasText: 'Number of lines that match “fares”' }).waitFor();
    await page.getByLabel('Fields of a').selectOption('text');
    await page.getByText('Mark what differs in one of these lines.').waitFor();
    await mark('503');
    await page.getByText('Of the newest 5 lines, 5 match the pattern.').waitFor();
    const pattern = page.getByLabel('Pattern of a');
    expect(await pattern.inputValue()).to.equal('GET /fares answered ‹answered:number›');
    await pattern.fill('GET /fares answered ‹status:number› in ‹ms:number› ms');
    await pattern.press('Enter');
    await page.getByTestId('pattern-a').getByText('status').first().waitFor();
    await page.getByRole('button', { name: /fields to tell lines apart by$/ }).click();
    await page.getByRole('checkbox', { name: /^status/ }).check();
    await page.keyboard.press('Escape');
    await page.getByTestId('sentence').filter({ hasText: 'by status' }).waitFor();
    await drawn().getByRole('row', { name: /503/ }).waitFor();
    await drawn().getByRole('row', { name: /500/ }).waitFor();
  });

  it('a search that cannot be read says where, and the number of a field has its unit', async () => {
    const { page } = visit;
    const search = page.getByRole('combobox', { name: 'Search', exact: true });
    await search.fill('fares (');
    await search.press('Enter');
    await page.getByRole('alert').filter({ hasText: 'Fix the search at the marked place.' }).waitFor();
    await search.fill('fares');
    await search.press('Enter');
    await page.getByLabel('What is taken of lines for a').selectOption('max');
    await page.getByLabel('Field of a').fill('ms');
    await page.getByLabel('Field of a').press('Enter');
    await page.getByTestId('sentence').filter({ hasText: 'Maximum ms in lines that match “fares”' }).waitFor();
    await drawn()
      .getByRole('row', { name: /500.*14/ })
      .waitFor();
  });

  it('goes to a board, whose panel leads to its lines', async () => {
    const { page, app } = visit;
    const signal = {
      ...{ version: 2, step: 'auto', rows: [{ name: 'a', lines: 'severity >= error', by: ['shape'] }] },
      limit: { keep: 10, order: 'highest', by: 'sum', rest: 'leave out' }
    };
    const place = { x: 0, y: 0, w: 6, h: 4 };
    const made = await visit.made('Fares', [
      { id: 'top', title: 'Top errors', picture: 'ranks', reduce: 'sum', signal, place },
      { id: 'log', title: 'Errors', picture: 'log', search: 'severity >= error', place: { ...place, y: 4 } }
    ]);
    await page.goto(`${app.origin}/boards/${made.id}`);
    await page.getByRole('region', { name: 'Errors' }).getByText('GET /fares answered 500 in 14 ms').waitFor();
    const top = page.getByRole('region', { name: 'Top errors' });
    await top.getByRole('link', { name: /GET \/fares answered ‹number›/ }).click();
    await page.getByRole('heading', { level: 1, name: '2 lines', exact: true }).waitFor();
  });

  it('becomes an alarm in one click from the search', async () => {
    const { page, app } = visit;
    await page.goto(`${app.origin}/logs?${new URLSearchParams({ q: 'severity >= error' })}`);
    await page.getByRole('link', { name: 'Alarm on this' }).click();
    await page.waitForURL(/alarms\/new/);
    await page.getByText('lines that match “severity >= error”').first().waitFor();
  });

  it('whoever may read no lines sees none, and why', async () => {
    const { browser, app } = visit;
    const { page: other } = await signedIn(browser, app, 'oda');
    await other.goto(`${app.origin}/logs`);
    await other.getByText('You may not read lines of logs.').waitFor();
    // Nor what is counted of them, whichever way it is asked for.
    const [from, to] = ['2026-05-04T10:00:00Z', '2026-05-04T12:00:00Z'];
    const signal = { version: 2, step: 'PT1M', rows: [{ name: 'a', lines: '', by: ['service'] }] };
    const level = { severity: 'major', condition: { kind: 'threshold', is: 'above', limit: 1 } };
    const rule = { levels: [level], window: { needs: 1, of: 1 }, whenMissing: 'indeterminate', zone: 'UTC' };
    const details = { enabled: true, labels: {}, owner: '', about: '', runbook: '', route: null };
    const asked = {
      query: { signal, from, to },
      bands: { signal, from, to, step: 60_000 },
      rehearse: { alarm: { name: 'Lines', signal, rule, ...details } },
      'lines/pattern': { search: '' }
    };
    const statuses = await Promise.all(
      Object.entries(asked).map(async ([path, data]) =>
        (await other.request.post(`${app.origin}/api/v1/${path}`, { data })).status()
      )
    );
    expect(statuses).to.deep.equal([403, 403, 403, 403]);
    const { page } = await signedIn(browser, app, 'kaja');
    await page.goto(`${app.origin}/people`);
    const row = page.getByRole('row', { name: /Oda Lind/ }).first();
    await row.getByRole('button', { name: /^Change…/ }).click();
    await page.getByLabel('Reads lines of').selectOption('all');
    await visit.button('Save', page).click();
    await row.getByText('of every account').waitFor();
    await other.reload();
    await other.getByRole('heading', { level: 1, name: '6 lines', exact: true }).waitFor();
    await Promise.all([other.context().close(), page.context().close()]);
  });

  it('a field that vanished from lines is said, with what was deployed before', async () => {
    const { page, app } = visit;
    const now = app.clock.now();
    const time = (minutes: number) => textFromInstant(instant(now - minutes * 60_000));
    await send(
      Array.from({ length: 40 }, (_, index) => ({
        ...{ time: time(40 - index), msg: 'served a fare', 'service.name': 'tariffs' },
        ...(index < 20 ? { took: 12 } : {})
      }))
    );
    const data = { text: 'tariffs 3.1 deployed', from: time(21) };
    expect((await page.request.post(`${app.origin}/api/v1/marks`, { data })).status()).to.be.oneOf([200, 201]);
    const of = { field: 'took', statistic: 'avg', unit: 'ms' };
    const rows = [{ name: 'a', lines: 'stream = tariffs', of }];
    const signal = encodeURIComponent(JSON.stringify({ version: 2, step: 'PT1M', rows }));
    await page.goto(`${app.origin}/bench?signal=${signal}&range=PT1H`);
    const said = page.getByText('No line has the field took any more since');
    await said.first().waitFor();
    expect(await said.first().innerText())
      .to.contain('lines came without it')
      .and.to.contain('Before it: tariffs 3.1 deployed');
  });

  it('an alarm on new shapes is made in one click, and is raised by the first line of one', async () => {
    const { page, app } = visit;
    const day = 86_400_000;
    const now = app.clock.now();
    await send([{ time: textFromInstant(instant(now - 2 * day)), msg: 'gate is open', 'service.name': 'gates' }]);
    await send([{ time: textFromInstant(instant(now - 60_000)), msg: 'gate is open', 'service.name': 'gates' }]);
    await page.goto(`${app.origin}/logs?${new URLSearchParams({ q: 'stream = gates' })}`);
    await page.getByRole('link', { name: 'Alarm on new ones' }).click();
    await page.waitForURL(/alarms\/new/);
    await page.getByText('shape.age < 60').first().waitFor();
    const signal = JSON.parse(new URL(page.url()).searchParams.get('signal') ?? '{}') as object;
    const level = { severity: 'major', condition: { kind: 'threshold', is: 'above', limit: 0 } };
    const rule = { levels: [level], window: { needs: 1, of: 1 }, whenMissing: 'indeterminate', zone: 'UTC' };
    const alarm = { name: 'New at the gates', signal, rule };
    const made = await page.request.post(`${app.origin}/api/v1/alarms`, { data: alarm });
    expect(made.status(), await made.text()).to.equal(201);
    await app.live(2);
    const time = textFromInstant(instant(app.clock.now() - 1000));
    await send([{ time, msg: 'hydraulic pressure of the gate is low', 'service.name': 'gates', level: 'warn' }]);
    await page.goto(`${app.origin}/incidents`);
    const raised = page.getByRole('row', { name: /New at the gates/ });
    for (let minutes = 0; minutes < 15 && (await raised.count()) === 0; minutes++) await app.live(1);
    await raised.first().waitFor();
    await counts(raised, 1);
    expect(await raised.first().innerText()).to.contain('hydraulic pressure');
  }).timeout(300_000);

  it('never made the browser complain', () => {
    // But of the search that cannot be read.
    expect(visit.complaints.filter((one) => !one.includes('422'))).to.deep.equal([]);
  });
});
