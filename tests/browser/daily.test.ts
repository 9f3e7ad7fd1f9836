import { expect } from 'chai';
import { counts } from '../support/count';
import { signedIn } from '../support/pages';
import { until } from '../support/until';
import { linesPanel, signalOf, withVisit } from '../support/visit';

const place = (x: number, y: number, w = 6, h = 4) => ({ x, y, w, h });
const picker = (name: string, title: string, label: string) => ({ name, title, label, several: true, usual: [] });

describe('what people do every day', () => {
  const visit = withVisit({ minutes: 4 });
  const { region, button, margin, group, kept, made } = visit;

  const listPanel = {
    id: 'list',
    title: 'Workloads now',
    picture: 'snapshot',
    rows: 20,
    place: place(0, 0, 12, 5),
    columns: [
      { title: 'Memory', signal: signalOf('workload_memory_bytes'), reduce: 'last', show: 'number' },
      { title: 'Cores', signal: signalOf('workload_processor_limit'), reduce: 'last', show: 'shade' }
    ]
  };

  it('each column of a list has its own unit, digits, statistic and limits; bare numbers and dates too', async () => {
    const { id } = await made('Columns', [listPanel]);
    await visit.page.goto(`${visit.app.origin}/boards/${id}?edit`);
    await group('Workloads now').press('Enter');
    const settings = margin('Panel');
    await settings.getByRole('button', { name: 'Memory', exact: true }).click();
    await settings.getByRole('button', { name: 'Unit of Memory: its own unit' }).click();
    await visit.page.getByLabel('Find a unit').fill('megabyte');
    await visit.page.getByRole('button', { name: /^MB megabyte/ }).click();
    const head = region('Workloads now').getByRole('columnheader', { name: 'Memory MB' });
    await head.waitFor();
    await settings.getByRole('status').filter({ hasText: 'the numbers are divided by 1,000,000' }).waitFor();
    await settings.getByLabel('Digits of Memory').selectOption('2');
    const memory = region('Workloads now').getByRole('row').nth(1).getByRole('cell').nth(2);
    await until('two digits', async () => /^[\d,]+\.\d\d$/.test(((await memory.textContent()) ?? '').trim()));
    await settings.getByLabel('Statistic of Memory').selectOption('max');
    await settings.getByText('Add a limit').click();
    await settings.getByLabel('Limit', { exact: true }).fill('0');
    await settings.getByLabel('Limit', { exact: true }).press('Tab');
    await memory.getByTitle(/^major: above 0/).waitFor();
    await settings.getByLabel('How limit 1 is reached').selectOption('matches');
    await settings.getByLabel('Pattern of names').fill('seatmap*');
    await settings.getByLabel('Pattern of names').press('Tab');
    const row = (name: string) => region('Workloads now').getByRole('row').filter({ hasText: name });
    await row('seatmap-1').getByTitle('major: named seatmap*').waitFor();
    await counts(row('quote-1').getByTitle('major: named seatmap*'), 0);
    await settings.getByLabel('bare numbers, without a unit').check();
    await region('Workloads now').getByRole('columnheader', { name: 'Memory', exact: true }).waitFor();
    await settings.getByLabel('How Memory is shown').selectOption('date');
    await settings.getByLabel('How the date is written').selectOption('day');
    await until('a day', async () => /\d{4}|no date/.test((await memory.textContent()) ?? ''));
    await kept().waitFor();
  });

  it('a number has a tile for each series; limits mark tiles, bars and shaded cells, and never by colour alone', async () => {
    const signal = signalOf('database.connections.use');
    const limits = [{ value: 0, is: 'above', severity: 'minor' }];
    const { id } = await made('Limits', [
      { id: 'a', title: 'Tiles', picture: 'number', signal, reduce: 'last', limits, place: place(0, 0) },
      { id: 'b', title: 'Ranked', picture: 'ranks', signal, reduce: 'last', limits, place: place(6, 0) },
      { id: 'c', title: 'Cells', picture: 'heat', signal, limits, place: place(0, 4) }
    ]);
    await visit.page.goto(`${visit.app.origin}/boards/${id}?edit`);
    await group('Tiles').press('Enter');
    await margin('Panel').getByLabel('a tile for each series, not the highest alone').check();
    const tiles = region('Tiles').locator('[data-tile]');
    await until('several tiles', async () => (await tiles.count()) >= 2);
    await tiles.first().getByText('above 0 %').waitFor();
    await tiles.first().getByRole('img', { name: 'minor' }).waitFor();
    await region('Ranked').getByTitle('minor: above 0 %').first().waitFor();
    await region('Cells').getByRole('img', { name: 'minor' }).first().waitFor();
    await margin('Panel').getByLabel('How limit 1 is reached').selectOption('equal');
    await until('no tile is equal', async () => (await tiles.getByRole('img').count()) === 0);
    await kept().waitFor();
  });

  it('a panel is described, for those who hover and on paper', async () => {
    const { id } = await made('Described', [linesPanel('a', 0, 0)]);
    await visit.page.goto(`${visit.app.origin}/boards/${id}?edit`);
    await group('Panel a').press('Enter');
    await margin('Panel').getByLabel('Description').fill('Above 85 % for long: add a machine.');
    await margin('Panel').getByLabel('Description').press('Tab');
    await kept().waitFor();
    await visit.page.goto(`${visit.app.origin}/boards/${id}`);
    await visit.page.getByTitle('Above 85 % for long: add a machine.', { exact: true }).hover();
    const text = region('Panel a').getByText('Above 85 % for long: add a machine.');
    await button('About Panel a').click();
    await text.waitFor();
    await button('About Panel a').click();
    await text.waitFor({ state: 'hidden' });
    await visit.page.emulateMedia({ media: 'print' });
    await text.waitFor();
    await visit.page.emulateMedia({ media: 'screen' });
  });

  it('folders are made, renamed and removed, and boards are moved between them', async () => {
    const { id } = await made('Quay lights', [linesPanel('a', 0, 0)]);
    await visit.page.goto(`${visit.app.origin}/boards`);
    await button('New folder').click();
    await region('New folder').getByText('Empty.').waitFor();
    await button('Rename the folder New folder').click();
    await visit.page.getByLabel('Name of the folder').fill('Quays');
    await visit.page.getByLabel('Name of the folder').press('Enter');
    await region('Quays').waitFor();
    await visit.page.getByLabel('Folder of Quay lights').first().selectOption({ label: 'Quays' });
    await region('Quays').getByRole('link', { name: 'Quay lights' }).waitFor();
    await button('New folder').click();
    await button('Rename the folder New folder').click();
    await visit.page.getByLabel('Name of the folder').fill('quays');
    await visit.page.getByLabel('Name of the folder').press('Enter');
    await visit.page.getByRole('alert').filter({ hasText: 'There is already a folder named quays.' }).waitFor();
    await button('Remove the folder New folder').click();
    await region('New folder').waitFor({ state: 'detached' });
    await button('Remove the folder Quays').click();
    await button('Cancel').click();
    await region('Quays').getByRole('link', { name: 'Quay lights' }).waitFor();
    await button('Remove the folder Quays').click();
    await button('Remove folder').click();
    await region('No service').getByRole('link', { name: 'Quay lights' }).waitFor();
    const answer = await visit.page.request.put(`${visit.app.origin}/api/v1/boards/${id}/folder`, {
      data: { folder: 999_999 }
    });
    expect(answer.status()).to.equal(404);
  });

  it('resources of the last 48 hours: first seen, last seen, state', async () => {
    const { id } = await made('Seen', [
      { id: 'a', title: 'Seen lately', picture: 'resources', hours: 48, service: 'databases', place: place(0, 0, 8, 6) }
    ]);
    await visit.page.goto(`${visit.app.origin}/boards/${id}`);
    const row = region('Seen lately').getByRole('row').filter({ hasText: 'gate-audit' });
    await row.getByText('new', { exact: true }).waitFor();
    await counts(row.getByRole('time'), 2);
    await region('Seen lately').getByLabel('Find a resource').fill('no such');
    await region('Seen lately').getByText('No resource is like this.').waitFor();
  });

  it('pickers of clusters drill down, each narrows the next, and what no longer fits is given up', async () => {
    await visit.page.goto(`${visit.app.origin}/services/clusters/board`);
    const choose = async (title: string, value: string) => {
      await button(new RegExp(`^${title}: `)).click();
      await visit.page.getByRole('checkbox', { name: new RegExp(`^${value} `) }).check();
      await visit.page.keyboard.press('Escape');
      await button(new RegExp(`^${title}: .*${value}`)).waitFor();
    };
    await choose('Cluster', 'harbour-cluster');
    await button(/^Node: /).click();
    await visit.page.getByRole('checkbox', { name: /^harbour-n1/ }).waitFor();
    await counts(visit.page.getByRole('checkbox', { name: /^quay-n1/ }), 0);
    await visit.page.keyboard.press('Escape');
    await choose('Node', 'harbour-n1');
    await choose('Workload', 'seatmap');
    await button(/^Container: /).click();
    const containers = visit.page.getByRole('checkbox', { name: /^seatmap-\d/ });
    await containers.first().waitFor();
    await counts(containers, 1); // of three, one runs on that node
    await counts(visit.page.getByRole('checkbox', { name: /^quote-/ }), 0);
    await visit.page.keyboard.press('Escape');
    // Another cluster has neither the node nor the workload.
    await button(/^Cluster: /).click();
    await visit.page.getByRole('checkbox', { name: /^harbour-cluster/ }).uncheck();
    await visit.page.getByRole('checkbox', { name: /^vessel-edge/ }).check();
    await visit.page.keyboard.press('Escape');
    await button('Node: all').waitFor();
    await button('Workload: all').waitFor();
  });

  it('a picker is duplicated, and each panel follows the one it is told to', async () => {
    const { id } = await made('Side by side', [linesPanel('a', 0, 0), linesPanel('b', 6, 0)], {
      pickers: [picker('resource', 'Resource', 'resource')]
    });
    await visit.page.goto(`${visit.app.origin}/boards/${id}?edit`);
    await button('Pickers …').click();
    await button('Duplicate the picker Resource').click();
    await visit.page.keyboard.press('Escape');
    await button('Resource, copy: all').waitFor();
    await group('Panel a').press('Enter');
    await margin('Panel').getByLabel('Resource, copy').uncheck();
    await group('Panel b').press('Enter');
    await margin('Panel').getByLabel('Resource', { exact: true }).uncheck();
    await kept().waitFor();
    await visit.page.goto(`${visit.app.origin}/boards/${id}?pick.resource=booking-web-1&pick.resource-2=booking-web-2`);
    await region('Panel a').getByRole('cell', { name: 'booking-web-1', exact: true }).waitFor();
    await region('Panel b').getByRole('cell', { name: 'booking-web-2', exact: true }).waitFor();
    await counts(region('Panel a').getByRole('cell', { name: 'booking-web-2' }), 0);
  });

  it('a choice of unit that rescales numbers says so, and a wrong unit of a pushed metric is corrected', async () => {
    const { page, app } = visit;
    await page.goto(`${app.origin}/receive`);
    await page.getByLabel('Name of the key and its account').fill('hold-sensors');
    await button('Make key').click();
    const key = await page.getByTestId('made-key').innerText();
    const at = app.clock.now();
    const lines = [0, 1, 2].map((back) =>
      JSON.stringify({ metric: 'hold.temperature', value: 21 + back, at: at - back * 60_000, resource: 'hold-1' })
    );
    const sent = await page.request.post(`${app.origin}/api/v1/receive/ndjson`, {
      headers: { authorization: `Bearer ${key}`, 'content-type': 'application/x-ndjson' },
      data: lines.join('\n')
    });
    expect(sent.status(), await sent.text()).to.equal(200);
    await page.goto(`${app.origin}/bench?signal=${encodeURIComponent(JSON.stringify(signalOf('hold.temperature')))}`);
    await button('Unit to show in: its own unit').click();
    await page.getByRole('button', { name: /^% percent/ }).click();
    await page
      .getByTestId('rescaled')
      .filter({ hasText: 'the numbers are 100 times as large: 22 becomes 2,200 %' })
      .waitFor();
    await button('Show in its own unit').click();
    await page.getByLabel('Search the catalogue').fill('hold.temperature');
    await page.getByRole('group', { name: 'Which metrics' }).getByRole('button', { name: 'any' }).click();
    await page.getByRole('button', { name: /^hold\.temperature/ }).click();
    await button(/^Unit of the metric:/).click();
    await page.getByLabel('Find a unit').fill('celsius');
    await page.getByRole('button', { name: /^°C degree Celsius/ }).click();
    await button('Unit to show in: its own unit').click();
    await page.getByLabel('Find a unit').fill('fahrenheit');
    await page.getByRole('button', { name: /^°F .*71\.6 °F/ }).click();
    await page.getByTestId('rescaled').filter({ hasText: '22 becomes 71.6 °F' }).waitFor();
    // What the program sends from now on is taken as before.
    const again = await page.request.post(`${app.origin}/api/v1/receive/ndjson`, {
      headers: { authorization: `Bearer ${key}`, 'content-type': 'application/x-ndjson' },
      data: JSON.stringify({ metric: 'hold.temperature', value: 19, at: at + 1000, resource: 'hold-1' })
    });
    expect(await again.json()).to.include({ accepted: 1, rejected: 0 });
  });

  it('an account is removed with its history kept, and then erased', async () => {
    const { app } = visit;
    const kaja = await signedIn(visit.browser, app, 'kaja');
    const open = async (name: string) => {
      await kaja.page.goto(`${app.origin}/accounts`);
      await kaja.page.getByRole('navigation', { name: 'Accounts' }).getByRole('link').filter({ hasText: name }).click();
    };
    const signal = signalOf('workload_memory_bytes', 'avg', [{ label: 'account', is: ['perla-data'] }]);
    await made('Perla at night', [{ ...linesPanel('memory', 0, 0), signal }]);
    await open('perla-data');
    await button('Remove…', kaja.page).click();
    await kaja.page.getByText('1 definition names this account: Perla at night (board).').waitFor();
    await button('Remove account', kaja.page).click();
    const removed = region('Removed accounts', kaja.page);
    await removed.getByText('history stays, removed').waitFor();
    const series = () =>
      app.db.rows<{ count: number }>(
        `select count(*)::integer as count from series join accounts on accounts.id = series.account_id where accounts.name = 'perla-data'`
      );
    expect((await series())[0]?.count).to.be.greaterThan(0);
    const secrets = await app.db.rows(`select 1 from accounts where name = 'perla-data' and length(secret_sealed) > 0`);
    expect(secrets).to.have.length(0);
    await removed.getByRole('button', { name: 'Erase history…' }).click();
    await removed.getByRole('button', { name: 'Erase history' }).click();
    await until('the history to be erased', async () => (await series())[0]?.count === 0);
    await until('the account to be gone', async () => {
      const left = await app.db.rows(`select 1 from accounts where name = 'perla-data'`);
      return left.length === 0;
    });
    await removed.waitFor({ state: 'detached' });
    const oda = await signedIn(visit.browser, app, 'oda');
    await oda.page.goto(`${app.origin}/accounts`);
    await oda.page.getByRole('heading', { name: 'Accounts' }).waitFor();
    await counts(button('Remove…', oda.page), 0);
    expect(kaja.complaints).to.deep.equal([]);
  });

  it('and the browser has nothing to complain of', () => {
    // A folder of a name that is taken is refused, and so is one that is not there; the browser notes the first.
    expect(visit.complaints.filter((one) => !/409/.test(one))).to.deep.equal([]);
  });
});
