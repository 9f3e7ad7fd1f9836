import { expect } from 'chai';
import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Browser, Locator, Page } from 'playwright-core';
import { startApp, type RunningApp } from '../support/app';
import { openBrowser } from '../support/chromium';
import { signedIn } from '../support/pages';
import { until } from '../support/until';

interface BoardBody {
  readonly id: number;
  readonly version: number;
  readonly title: string;
  readonly panels: readonly { id: string; title: string; picture: string; place: object; section?: string }[];
}

describe('boards, as people build, read and share them', () => {
  let app: RunningApp;
  let browser: Browser;
  let page: Page;
  let complaints: string[];

  before(async function () {
    this.timeout(120_000);
    app = await startApp({ accounts: true });
    browser = await openBrowser();
    ({ page, complaints } = await signedIn(browser, app, 'nerea'));
    await page.context().grantPermissions(['clipboard-read', 'clipboard-write']);
    await app.live(4);
    await app.db.rows("update people set zone = 'Europe/Berlin' where name = 'nerea'");
  });
  afterEach(async function () {
    if (this.currentTest?.state === 'failed')
      await page.screenshot({ path: `test-results/${this.currentTest.title.slice(0, 40)}.png` });
  });
  after(async function () {
    this.timeout(30_000);
    await browser.close();
    await app.stop();
  });

  const region = (name: string, of: Page = page): Locator => of.getByRole('region', { name, exact: true });
  const group = (name: string, of: Page = page): Locator => of.getByRole('group', { name: new RegExp(`^${name}:`) });
  const placeOf = async (name: string, of: Page = page) =>
    (await group(name, of).getAttribute('aria-label'))?.split('.')[0];
  const kept = (of: Page = page) => of.getByRole('status').filter({ hasText: /^Kept$/ });
  const button = (name: string | RegExp, of: Page = page) =>
    of.getByRole('button', { name, exact: typeof name === 'string' });
  const margin = (name: string) => page.getByRole('complementary', { name });

  const signal = (metric: string, statistic = 'avg') => ({
    version: 2,
    rows: [{ name: 'a', metric, where: [], statistic }],
    step: 'PT1M'
  });
  const lines = (id: string, x: number, y: number, metric = 'machine.processor.use', statistic = 'avg') => ({
    id,
    title: `Panel ${id}`,
    picture: 'lines',
    signal: signal(metric, statistic),
    place: { x, y, w: 6, h: 4 }
  });
  /** A board made by the API, as another program would. */
  async function made(title: string, panels: object[], more: object = {}): Promise<BoardBody> {
    const data = { title, pickers: [], sections: [], panels, ...more };
    const answer = await page.request.post(`${app.origin}/api/v1/boards`, { data });
    expect(answer.status(), await answer.text()).to.equal(201);
    return (await answer.json()) as BoardBody;
  }
  const read = async (id: number): Promise<BoardBody> =>
    (await (await page.request.get(`${app.origin}/api/v1/boards/${id}`)).json()) as BoardBody;

  it('is made from nothing: a picture that suits is proposed, others are chosen, and all is kept by itself', async () => {
    await page.goto(`${app.origin}/boards`);
    await page.getByRole('heading', { name: 'No board yet' }).waitFor();
    await button('New board').first().click();
    await page.waitForURL(/boards\/\d+\?edit/);
    await page.getByLabel('Title of the board').fill('Harbour');
    await page.getByLabel('Title of the board').press('Enter');
    await button('Add a panel').click();
    const wanted = page.getByLabel('What do you want to see?');
    const see = async (words: string, found: RegExp, told: RegExp) => {
      await wanted.fill(words);
      await page.getByRole('option', { name: found }).first().waitFor();
      await wanted.press('Enter');
      await page.getByRole('status').filter({ hasText: told }).waitFor();
    };
    await see('messages waiting', /^Messages waiting/, /Messages waiting was added: few series over time/);
    await see('processor use machine', /^Processor use/, /Processor use was added: many resources now/);
    await see('responses class', /^Responses by class/, /Responses by class was added: parts of a whole/);
    await see('replication backlog', /^Backlog/, /Backlog was added/);
    await wanted.fill('explain');
    await wanted.press('Enter');
    await group('Read this first').press('Enter');
    await margin('Panel')
      .getByLabel('Text, in CommonMark')
      .fill('Call **Ivo** first.\n\n- then [Machines](/services/machines/board)');
    await margin('Panel').getByLabel('Title').click();
    await region('Read this first').locator('strong', { hasText: 'Ivo' }).waitFor();
    await group('Backlog').press('Enter');
    await margin('Panel').getByLabel('Picture').selectOption('table');
    await region('Backlog').getByRole('columnheader', { name: 'When' }).waitFor();
    await group('Messages waiting').press('Enter');
    await margin('Panel').getByLabel('Picture').selectOption('gauge');
    await margin('Panel').getByLabel('to', { exact: true }).fill('1000');
    await margin('Panel').getByLabel('danger at').fill('90000');
    await margin('Panel').getByLabel('danger at').press('Tab');
    await margin('Panel').getByRole('alert').getByText('90000 messages lies outside the scale').waitFor();
    await margin('Panel').getByLabel('danger at').fill('900');
    await margin('Panel').getByLabel('danger at').press('Tab');
    await kept().waitFor();
    const id = Number(/boards\/(\d+)/.exec(page.url())?.[1]);
    const board = await until('all that was made', async () => {
      const found = await read(id);
      return found.panels.some(({ picture }) => picture === 'gauge') && found;
    });
    expect(board.title).to.equal('Harbour');
    expect(board.panels.map(({ picture }) => picture)).to.deep.equal(['gauge', 'snapshot', 'stacked', 'table', 'text']);
    await button('Done').click();
    await page.reload();
    await region('Messages waiting').getByTestId('gauge').first().waitFor();
    await region('Processor use').getByRole('cell', { name: 'booking-web-1' }).waitFor();
    const link = region('Read this first').getByRole('link', { name: 'Machines' });
    await page.goto(`${page.url()}?range=PT1H`);
    await until('a link that keeps the range', async () => (await link.getAttribute('href'))?.includes('range=PT1H'));
  });

  it('a starter fills itself, says what it lacks, and becomes one’s own in one click', async () => {
    await page.goto(`${app.origin}/services/databases/board`);
    await region('Connections in use').locator('canvas').waitFor();
    await page.getByText(/It would also show .*Replica lag.* not collected/).waitFor();
    await button('Make a copy of my own').click();
    await page.waitForURL(/boards\/\d+\?edit/);
    await page.getByLabel('Title of the board').fill('Ticket databases');
    await page.getByLabel('Title of the board').press('Enter');
    await group('Read latency').press('Delete');
    await kept().waitFor();
    await page.goto(`${app.origin}/boards`);
    await region('Databases').getByRole('link', { name: 'Ticket databases' }).waitFor();
    await page.getByLabel('Find a board').fill('ticket statements');
    await region('Found').getByRole('link', { name: 'Ticket databases' }).waitFor();
    await page.getByLabel('Find a board').fill('no such words');
    await page.getByText('No board has these words.').waitFor();
  });

  it('one picker, made in two clicks, drives five panels, and is in the address', async () => {
    const metrics = ['machine.processor.use', 'machine.memory.use', 'machine.network.in', 'machine.network.out'];
    const panels = metrics.map((metric, i) => lines(`p${i}`, (i % 2) * 6, Math.floor(i / 2) * 4, metric));
    const { id } = await made('Five', [...panels, { ...lines('p9', 0, 8, 'queue.depth'), title: 'Depth' }]);
    await page.goto(`${app.origin}/boards/${id}?edit`);
    await button('Pickers …').click();
    await button(/^Resource/).click();
    await page.keyboard.press('Escape');
    await kept().waitFor();
    await button('Done').click();
    await button('Resource: all').click();
    await page.getByLabel('Find a value of Resource').fill('booking-web-1');
    await page.getByLabel('Find a value of Resource').press('Enter');
    await page.waitForURL(/pick\.resource=booking-web-1/);
    await page.keyboard.press('Escape');
    for (const panel of panels) {
      const rows = region(panel.title).locator('tbody tr');
      await until('one machine', async () => (await rows.count()) === 1);
      expect(await rows.first().innerText()).to.match(/^booking-web-1/);
    }
    await button('Why is this empty?').click(); // the queues have no such resource
    await region('Depth')
      .getByText(/^Resource is booking-web-1/)
      .waitFor();
    await region('Depth').getByRole('button', { name: 'Choose all' }).click();
    await region('Depth').locator('canvas').waitFor();
    expect(page.url()).to.not.contain('pick.');
    await page.goBack();
    await button('Resource: booking-web-1').waitFor();
  });

  it('a span dragged on one chart moves all, one can be unlinked, and a double click steps back', async () => {
    const { id } = await made('Linked', [lines('a', 0, 0), lines('b', 6, 0)]);
    await page.goto(`${app.origin}/boards/${id}?range=PT1H`);
    const chart = (name: string) => region(name).locator('canvas');
    await chart('Panel b').waitFor();
    const drag = async (name: string, from: number, to: number) => {
      const box = (await chart(name).boundingBox())!;
      await page.mouse.move(box.x + box.width * from, box.y + 40);
      await page.mouse.down();
      await page.mouse.move(box.x + box.width * to, box.y + 40, { steps: 5 });
      await page.mouse.up();
    };
    const asked = () =>
      page
        .waitForRequest((request) => request.url().endsWith('/api/v1/queries'))
        .then((request) => request.postDataJSON() as { signals: object[]; from: string; to: string });
    const both = asked();
    await drag('Panel a', 0.4, 0.6);
    await page.waitForURL(/from=.*to=/);
    expect((await both).signals).to.have.length(2);
    await button('More of Panel b').click();
    await button('Unlink from the board’s range').click();
    await region('Panel b').getByText('unlinked').waitFor();
    const address = page.url();
    const one = asked();
    await drag('Panel b', 0.3, 0.7);
    expect((await one).signals).to.have.length(1);
    expect(page.url()).to.equal(address);
    await chart('Panel b').dblclick({ position: { x: 200, y: 40 } });
    await button('More of Panel b').click();
    await button('Link to the board’s range').click();
    await region('Panel b').getByText('unlinked').waitFor({ state: 'detached' });
    await chart('Panel a').dblclick({ position: { x: 200, y: 40 } });
    await page.waitForURL(/range=PT1H/);
  });

  it('panels are moved and sized by keys and by the pointer, undone, done again, and brought back from the history', async () => {
    const { id } = await made('Moving', [lines('a', 0, 0), lines('b', 6, 0)]);
    await page.goto(`${app.origin}/boards/${id}?edit`);
    await group('Panel a').focus();
    await page.keyboard.press('ArrowDown');
    await page.keyboard.press('Shift+ArrowLeft');
    await page.getByRole('status').filter({ hasText: 'Panel a: column 1, row 2, 5 wide, 4 high' }).waitFor();
    await group('Panel b').focus();
    await page.keyboard.press('ArrowLeft');
    await until('the move', async () => (await placeOf('Panel b')) === 'Panel b: column 6, row 1, 6 wide, 4 high');
    await page.keyboard.press('Control+z');
    await page.keyboard.press('Control+z');
    await until(
      'two steps back',
      async () => (await placeOf('Panel a')) === 'Panel a: column 1, row 2, 6 wide, 4 high'
    );
    await page.keyboard.press('Control+Shift+Z');
    await until('one on again', async () => (await placeOf('Panel a')) === 'Panel a: column 1, row 2, 5 wide, 4 high');
    const handle = region('Panel b').locator('header');
    const box = (await handle.boundingBox())!;
    await page.mouse.move(box.x + 60, box.y + 8);
    await page.mouse.down();
    await page.mouse.move(box.x + 60, box.y + 400, { steps: 12 });
    await page.mouse.up();
    await until('the drag', async () => /row [5-9]/.test((await placeOf('Panel b')) ?? ''));
    await kept().waitFor();
    const after = await until('its place', async () => {
      const { panels } = await read(id);
      return JSON.stringify(panels[1]?.place) !== JSON.stringify(lines('b', 6, 0).place) && panels;
    });
    expect(after[1]?.place).to.have.property('y').that.is.above(3);
    await button('History').click();
    await margin('History')
      .getByRole('button', { name: /^As it began/ })
      .click();
    await margin('History').getByText('The panel “Panel b” was moved or sized.').waitFor();
    await button('Bring this version back').click();
    await until('as it began', async () => (await placeOf('Panel b')) === 'Panel b: column 7, row 1, 6 wide, 4 high');
    await until('kept', async () => (await read(id)).panels.every((panel) => (panel.place as { y: number }).y === 0));
  });

  it('two who edit at once see each other; what both changed alike is brought together, and nothing is lost silently', async () => {
    const { id } = await made('Together', [lines('a', 0, 0), lines('b', 6, 0)]);
    const other = (await signedIn(browser, app, 'kaja')).page;
    await page.goto(`${app.origin}/boards/${id}?edit`);
    await other.goto(`${app.origin}/boards/${id}?edit`);
    await other.getByText('Nerea Olmo is changing this board').waitFor();
    const rename = async (of: Page, panel: string, title: string) => {
      await group(panel, of).press('Enter');
      await of.getByLabel('Title', { exact: true }).fill(title);
      await of.getByLabel('Title', { exact: true }).press('Tab');
    };
    await rename(other, 'Panel b', 'Theirs');
    await region('Theirs').waitFor(); // by itself
    await page.route('**/api/v1/boards/*', async (route) =>
      route.request().method() === 'GET' ? route.abort() : route.continue()
    );
    await rename(other, 'Panel a', 'Named by Kaja');
    await until('it is kept', async () => (await read(id)).panels[0]?.title === 'Named by Kaja');
    await rename(page, 'Panel a', 'Named by Nerea'); // without having heard of it
    await page.unroute('**/api/v1/boards/*');
    const told = page.getByRole('list', { name: 'Changed by two at once' });
    await told.getByText('theirs “Named by Kaja” stands, yours was “Named by Nerea”').waitFor();
    await button('Use mine').click();
    await region('Named by Nerea', other).waitFor();
    expect((await read(id)).panels.map(({ title }) => title)).to.deep.equal(['Named by Nerea', 'Theirs']);
    await other.context().close();
  });

  it('what is changed while the server is not reached is kept when it is there again', async () => {
    const { id } = await made('Lost', [lines('a', 0, 0)]);
    await page.goto(`${app.origin}/boards/${id}?edit`);
    await group('Panel a').waitFor();
    await page.route('**/api/v1/boards/*', (route) => route.abort());
    await group('Panel a').press('ArrowDown');
    await page.getByText('Bussola is not reached. What you change is kept when the connection is back.').waitFor();
    await page.unroute('**/api/v1/boards/*');
    await kept().waitFor();
    expect((await read(id)).panels[0]?.place).to.include({ y: 1 });
  });

  it('sections fold, and keep their panels', async () => {
    const { id } = await made('Sections', [lines('a', 0, 0), { ...lines('b', 0, 0), section: 's1' }], {
      sections: [{ id: 's1', title: 'Host', folded: true }]
    });
    await page.goto(`${app.origin}/boards/${id}`);
    await page.getByText('1 panel folded').waitFor();
    expect(await region('Panel b').count()).to.equal(0);
    await button('Host').click();
    await region('Panel b').locator('canvas').waitFor();
    await button(/^Edit/).click();
    await button('Add a section').click();
    await page.getByLabel('Title of the section').nth(1).fill('Guest');
    await page.getByLabel('Title of the section').nth(1).press('Tab');
    await group('Panel a').press('Enter');
    await page.getByLabel('Lies in').selectOption('Guest');
    await button('Take the heading away').first().click();
    await kept().waitFor();
    const body = (await read(id)) as BoardBody & { sections: { title: string }[] };
    expect(body.sections.map(({ title }) => title)).to.deep.equal(['Guest']);
    expect(body.panels.map(({ section }) => section)).to.deep.equal(['part-2', undefined]);
  });

  it('is read in other ways for a while: another statistic, earlier beside now, as a table, alone, large, as CSV and PNG', async () => {
    const { id } = await made('Reading', [lines('a', 0, 0), lines('b', 6, 0)]);
    await page.goto(`${app.origin}/boards/${id}`);
    await region('Panel a').locator('canvas').waitFor();
    await button('More of Panel a').click();
    await page.getByLabel('Statistic').selectOption('max');
    await until('the sentence', async () =>
      (await region('Panel a').locator('small').innerText()).startsWith('Maximum')
    );
    const earlier = page.waitForRequest((request) => request.url().endsWith('/api/v1/queries'));
    await page.getByLabel('Compare with').selectOption('1 day earlier');
    await earlier;
    await region('Panel a').getByText('dotted: 1 day earlier').waitFor();
    await button('Copy as CSV').click();
    await page.getByRole('status').filter({ hasText: 'Copied as CSV.' }).waitFor();
    expect(await page.evaluate(() => navigator.clipboard.readText())).to.match(/booking-web-1/);
    const download = page.waitForEvent('download');
    await button('Save as PNG').click();
    expect((await download).suggestedFilename()).to.equal('Panel a.png');
    await button('More of Panel a').click();
    await button('Show as a table').click();
    await region('Panel a').getByRole('columnheader', { name: 'When' }).waitFor();
    await region('Panel b').locator('tbody button').first().click();
    await region('Panel b').locator('[aria-pressed=true]').waitFor();
    await button('Maximise Panel b').click();
    await page.waitForURL(/panel=b/);
    await region('Panel a').waitFor({ state: 'detached' });
    await button('Make Panel b small again').click();
    await region('Panel a').waitFor();
    expect((await read(id)).version, 'nothing of it is kept').to.equal(1);
  });

  it('marks are put by people and by programs, are seen on charts, and compare before with after', async () => {
    const { id } = await made('Marked', [
      lines('a', 0, 0),
      { id: 'm', title: 'Marks', picture: 'marks', place: { x: 6, y: 0, w: 6, h: 4 } }
    ]);
    await page.goto(`${app.origin}/boards/${id}`);
    await button('Mark …').click();
    await page.getByLabel('What happened').fill('fares 4.18 deployed');
    await button('Put the mark').click();
    await region('Marks').getByText('fares 4.18 deployed').waitFor();
    await page.goto(`${app.origin}/receive`);
    await page.getByLabel('Name').fill('deployer');
    await button(/^Make/).click();
    const key = await until(
      'the key',
      async () => /bussola-[\w-]{20,}/.exec(await page.locator('main').innerText())?.[0]
    );
    const put = (data: object, authorization: string) =>
      page.request.post(`${app.origin}/api/v1/receive/marks`, { data, headers: { authorization } });
    const now = new Date(app.clock.now()).toISOString();
    expect(
      (await put({ text: 'gate-api 2 deployed', from: now, service: 'machines' }, `Bearer ${key}`)).status()
    ).to.equal(201);
    expect((await put({ text: 'x', from: now }, 'Bearer wrong')).status()).to.equal(401);
    expect((await put({ text: '', from: 'soon' }, `Bearer ${key}`)).status()).to.equal(400);
    await page.goto(`${app.origin}/boards/${id}`);
    await region('Marks').getByText('by deployer').waitFor();
    await page.locator('svg title', { hasText: 'gate-api 2 deployed' }).first().waitFor({ state: 'attached' }); // on the logbook
    await region('Marks').getByRole('link', { name: 'an hour before and after' }).first().click();
    await page.getByRole('status').filter({ hasText: 'Dotted: 1 hour earlier.' }).waitFor();
    await button('Compare no more').click();
    await page.waitForURL((url) => !url.searchParams.has('earlier'));
    await page.goto(`${app.origin}/boards/${id}`);
    const mine = region('Marks').getByRole('listitem').filter({ hasText: 'fares 4.18' });
    await mine.getByRole('button', { name: 'take away' }).click();
    await mine.waitFor({ state: 'detached' });
  });

  it('ranges are typed, times told in UTC, and cells of all panels made longer', async () => {
    const { id } = await made('Timed', [lines('a', 0, 0)]);
    await page.goto(`${app.origin}/boards/${id}`);
    await region('Panel a').locator('canvas').waitFor();
    await page.keyboard.press('.');
    await page.getByLabel('Type a range').fill('the other day');
    await button('Show').click();
    await page
      .getByRole('alert')
      .getByText(/^Write for example/)
      .waitFor();
    await page.getByLabel('Type a range').fill('last 90 min');
    await button('Show').click();
    await page.waitForURL(/range=PT90M/);
    await page.keyboard.press('.');
    const asked = page.waitForRequest((request) => request.url().endsWith('/api/v1/queries'));
    await page.getByLabel('Cells of a board’s panels').selectOption('5 minutes');
    const { signals } = (await asked).postDataJSON() as { signals: { step: string }[] };
    expect(signals.map(({ step }) => step)).to.deep.equal(['PT5M']);
    const zone = page.getByText(/^Times are in/);
    expect(await zone.innerText()).to.not.contain('Times are in UTC.');
    await button('Use UTC').click();
    await until('UTC', async () => (await zone.innerText()).startsWith('Times are in UTC.'));
    await page.keyboard.press('Escape');
  });

  it('a private board is there for its owner and those named alone, whatever is called', async () => {
    const { id } = await made('Mine alone', [lines('a', 0, 0)]);
    const viewer = await signedIn(browser, app, 'oda');
    await page.goto(`${app.origin}/boards/${id}`);
    await button('Share').click();
    await page.getByLabel('Who sees it').selectOption('private');
    await page.getByRole('status').filter({ hasText: 'Shared so from now on.' }).waitFor();
    const call = viewer.page.request;
    const path = `${app.origin}/api/v1/boards/${id}`;
    const { title, panels, version } = await read(id);
    const statuses = async () => [
      (await call.get(path)).status(),
      (await call.put(path, { data: { title, panels, version } })).status(),
      (await call.get(`${path}/versions`)).status(),
      (await call.get(`${path}/sharing`)).status()
    ];
    expect(await statuses()).to.deep.equal([404, 404, 404, 404]);
    expect((await viewer.page.goto(`${app.origin}/boards/${id}`))?.status()).to.equal(404);
    await page.getByLabel('Name somebody').selectOption({ label: 'every viewer' });
    await page.getByLabel('What every viewer may do').waitFor();
    expect(await statuses()).to.deep.equal([200, 403, 200, 403]);
    await page.getByLabel('What every viewer may do').selectOption('edit');
    await until(
      'the right to edit',
      async () => (await call.put(path, { data: { title, panels, version } })).status() === 200
    );
    await viewer.page.context().close();
  });

  it('a link shows one board without signing in, and nothing else, until it is revoked', async () => {
    const { id } = await made('By link', [lines('a', 0, 0)]);
    await page.goto(`${app.origin}/boards/${id}`);
    await button('Share').click();
    await button('Make a link').click();
    const address = await page.getByLabel('The link').inputValue();
    const stranger = await (await browser.newContext()).newPage();
    await stranger.goto(address);
    await region('Panel a', stranger).locator('canvas').waitFor();
    await region('Panel a', stranger).locator('tbody tr').first().waitFor();
    expect(await button(/^Edit|^Share/, stranger).count()).to.equal(0);
    const token = new URL(address).pathname.split('/').at(-1);
    const span = { from: '2026-05-04T13:00:00Z', to: '2026-05-04T14:00:00Z' };
    const queries = (asks: object[]) =>
      stranger.request.post(`${app.origin}/api/v1/shared/${token}/queries`, { data: { asks, ...span } });
    expect((await queries([{ panel: 'a', column: 0 }])).status()).to.equal(200);
    expect((await queries([{ panel: 'b', column: 0 }])).status()).to.equal(422);
    expect((await queries([{ signal: signal('queue.depth') }])).status()).to.equal(400);
    for (const path of ['/api/v1/query', '/api/v1/queries', `/api/v1/boards/${id}`])
      expect((await stranger.request.post(app.origin + path, { data: {} })).status(), path).to.equal(401);
    await button('Revoke').click();
    await button('Revoke').waitFor({ state: 'detached' });
    expect((await stranger.goto(address))?.status()).to.equal(404);
    await stranger.getByText('This link is not valid any more.').waitFor();
    await stranger.context().close();
  });

  it('a wall turns from board to board, and says when the connection is lost', async () => {
    const first = await made('Wall one', [lines('a', 0, 0)]);
    const second = await made('Wall two', [lines('b', 0, 0)]);
    await page.goto(`${app.origin}/boards`);
    await page.getByLabel('Wall one on the wall').first().check();
    await page.getByLabel('Wall two on the wall').first().check();
    await page.getByRole('link', { name: 'Wall of 2 boards' }).click();
    await page.waitForURL(`**/wall?boards=${first.id},${second.id}`);
    await region('Panel a').locator('canvas').waitFor();
    await page.keyboard.press('ArrowRight');
    await region('Panel b').locator('canvas').waitFor();
    await page.getByText('2 of 2').waitFor();
    await page.route('**/live', (route) => route.abort());
    await page.reload();
    await page.getByRole('alert').filter({ hasText: 'Connection lost: what is shown is of' }).waitFor();
    await region('Panel a').locator('canvas').waitFor();
    await page.unroute('**/live');
    await page.getByRole('alert').waitFor({ state: 'detached' });
    await page.keyboard.press('ArrowRight');
    await region('Panel b').locator('canvas').waitFor();
    await page.keyboard.press('Escape');
    await page.waitForURL(`**/boards/${second.id}`);
  });

  it('a resource has a page of its own, from which a panel is added to a board', async () => {
    const { id } = await made('Collected', []);
    await page.goto(`${app.origin}/services/machines/board`);
    await region('Processor use').locator('canvas').waitFor();
    await page.keyboard.press('/');
    await page.keyboard.type('ticket-orders-r1');
    await page.keyboard.press('Enter');
    await page.getByRole('heading', { name: 'ticket-orders-r1', level: 1 }).waitFor();
    await region('Alarms').getByText('No alarm watches it').waitFor();
    await region('Connections in use').locator('canvas').waitFor();
    await button('More of Connections in use').click();
    await page.getByLabel('Add to a board').selectOption('Collected');
    await page.getByRole('status').filter({ hasText: 'Added to Collected.' }).waitFor();
    expect((await read(id)).panels.map(({ title }) => title)).to.deep.equal(['Connections in use']);
  });

  it('a board leaves as a file, is mapped to what is here, comes in again, and its pictures are equal', async () => {
    const only = (account: string) => ({
      ...signal('machine.processor.use'),
      rows: [
        { name: 'a', metric: 'machine.processor.use', where: [{ label: 'account', is: [account] }], statistic: 'avg' }
      ]
    });
    const original = await made('Carried', [{ ...lines('a', 0, 0), signal: only('corallo-prod') }]);
    await page.goto(`${app.origin}/boards/${original.id}`);
    const table = () => region('Panel a').locator('tbody').innerText();
    await region('Panel a').locator('canvas').waitFor();
    const drawn = await table();
    await page.getByRole('link', { name: 'File' }).click();
    const download = page.waitForEvent('download');
    await page.getByRole('link', { name: 'Save as YAML' }).click();
    const path = await (await download).path();
    const text = readFileSync(path, 'utf8');
    expect(text).to.match(/^kind: board\nversion: 1\ntitle: Carried\n/);
    const foreign = join(app.data, 'foreign.yaml');
    writeFileSync(foreign, text.replace('corallo-prod', 'elsewhere').replace('title: Carried', 'title: Brought in'));
    await page.goto(`${app.origin}/boards`);
    await page.getByRole('link', { name: 'Bring one in' }).click();
    await page.getByLabel('A file of this computer').setInputFiles(foreign);
    await button('See what would change').click();
    await page.getByText('The panel “Panel a” was added.').waitFor();
    await page.getByLabel('What takes the place of elsewhere').selectOption('corallo-prod');
    await page.getByLabel('What takes the place of elsewhere').waitFor({ state: 'detached' });
    await button('Make the board').click();
    await page.getByRole('heading', { name: 'Brought in', level: 1 }).waitFor();
    await region('Panel a').locator('canvas').waitFor();
    expect(await table()).to.equal(drawn);
  });

  it('a file is edited with completion, and what is wrong is said at its line', async () => {
    const { id } = await made('Written', [lines('a', 0, 0)]);
    await page.goto(`${app.origin}/boards/${id}/file`);
    const editor = page.getByLabel('The board as a file');
    await editor.click();
    await page.keyboard.press('Control+End');
    await page.keyboard.type('abo');
    await page.getByRole('option', { name: /^about/ }).click(); // Enter is not taken for a moment, lest it chooses by mistake
    await page.keyboard.type('What it is for');
    await button('See what would change').click();
    await page.getByText('The description was nothing, is “What it is for”.').waitFor();
    await button('Change the board').click();
    await page.waitForURL(`**/boards/${id}`);
    await page.getByText('What it is for').waitFor();
    await page.goto(`${app.origin}/boards/${id}/file`);
    await editor.click();
    await page.keyboard.press('Control+End');
    await page.keyboard.type('colour: red');
    await page.locator('.cm-lint-marker-error').first().waitFor();
    await button('See what would change').click();
    await page.getByRole('alert').getByText('colour is not known here.').waitFor();
    expect((await read(id)).version).to.equal(2);
  });

  it('a hostile file is refused in words, and nothing is lost', async () => {
    const call = (data: object) => page.request.post(`${app.origin}/api/v1/boards/apply`, { data });
    const before = (await app.db.rows<{ count: number }>('select count(*) as count from boards'))[0]?.count;
    const answers = [
      await call({ text: 'kind: board\nversion: 9\n' }),
      await call({ text: 'kind: board\nversion: 1\ntitle: x\npanels: []\nshape: round\n' }),
      await call({ text: 'x'.repeat(3_000_000) }),
      await call({ text: 'x'.repeat(50_000_000) }),
      await call({ text: 'kind: board\nversion: 1\ntitle: x\npanels: []\n', into: 9999 })
    ];
    expect(answers.map((answer) => answer.status())).to.deep.equal([422, 422, 422, 413, 422]);
    const told = await Promise.all(answers.map((answer) => answer.text()));
    expect(told[0]).to.contain('written by a newer Bussola, in version 9');
    expect(told[1]).to.contain('shape is not known here');
    expect(told[2]).to.contain('The file has 3 MB; a board has at most 2');
    expect(told[3]).to.contain('too large');
    expect(told[4]).to.contain('There is no such board.');
    const after = (await app.db.rows<{ count: number }>('select count(*) as count from boards'))[0]?.count;
    expect(after).to.equal(before);
    const nowhere =
      'kind: board\nversion: 1\ntitle: Nowhere\npanels:\n  - id: p1\n    title: Lost\n    picture: lines\n    place: { x: 0, y: 0, w: 6, h: 4 }\n    signal: { version: 2, step: PT1M, rows: [{ name: a, metric: no.such.metric, statistic: avg }] }\n';
    const applied = (await (await call({ text: nowhere })).json()) as {
      unknown: { name: string }[];
      kept: { id: number };
    };
    expect(applied.unknown.map(({ name }) => name)).to.deep.equal(['no.such.metric']);
    await page.goto(`${app.origin}/boards/${applied.kept.id}`);
    await region('Lost').getByRole('alert').getByText('There is no metric named no.such.metric.').waitFor();
  });

  it('from a shell, boards are exported, planned and applied through the API', async () => {
    await made('From a shell', [lines('a', 0, 0)]);
    const shell = async (...flags: string[]) => {
      const child = spawn(process.execPath, ['scripts/bussola.mjs', 'boards', ...flags], {
        env: { ...process.env, BUSSOLA_URL: app.origin, BUSSOLA_NAME: 'nerea', BUSSOLA_PASSWORD: 'corallo-demo' }
      });
      let said = '';
      for (const stream of [child.stdout, child.stderr]) stream.on('data', (part: Buffer) => (said += part.toString()));
      const [code] = (await once(child, 'exit')) as [number];
      return { code, said };
    };
    const file = join(app.data, 'shell.yaml');
    expect(await shell('export', 'From a shell', '--to', file)).to.deep.equal({
      code: 0,
      said: `From a shell was written to ${file}.\n`
    });
    expect((await shell('plan', file)).said).to.contain('The board is already as the file says.');
    writeFileSync(
      file,
      readFileSync(file, 'utf8')
        .replace('title: Panel a', 'title: Renamed')
        .replace('machine.processor.use', 'cpu.elsewhere')
    );
    const plan = await shell('plan', file);
    expect(plan.said)
      .to.contain('--map metric:cpu.elsewhere=…')
      .and.to.contain('Of the panel “Renamed” the title and signal were changed.');
    const applied = await shell('apply', file, '--map', 'metric:cpu.elsewhere=machine.processor.use');
    expect([applied.code, applied.said]).to.deep.equal([
      0,
      `Changes of From a shell:\n  The panel “Panel a” is called “Renamed” now.\nApplied: ${app.origin}/boards/${/boards\/(\d+)/.exec(applied.said)?.[1]}\n`
    ]);
    writeFileSync(file, 'kind: board\nversion: 2\n');
    const newer = await shell('apply', file);
    expect([newer.code, newer.said.includes('written by a newer Bussola')]).to.deep.equal([1, true]);
    expect((await shell('export', 'No such')).said).to.match(/^There is no board No such\. There are: /);
  }).timeout(60_000);

  it('markup in titles, labels and texts is shown, not run', async () => {
    const evil = '<img src=x onerror="window.hurt=1"><script>window.hurt=1</script>';
    const text = `${evil}\n\n[a](javascript:window.hurt=1) [b](/boards) <a href="javascript:window.hurt=1">c</a>\n\n![x](x" onerror="window.hurt=1)`;
    const { id } = await made(
      `Hostile ${evil}`,
      [
        { ...lines('a', 0, 0), title: evil },
        { id: 't', title: 'Text', picture: 'text', text, place: { x: 6, y: 0, w: 6, h: 4 } }
      ],
      { pickers: [{ name: 'account', title: evil.slice(0, 60), label: 'account' }], about: evil }
    );
    await page.goto(`${app.origin}/boards/${id}`);
    await region('Text').getByRole('link', { name: 'b' }).waitFor();
    expect(await region('Text').locator('script, img, [onerror], a[href^=javascript]').count()).to.equal(0);
    await page.getByRole('heading', { name: /^Hostile <img/ }).waitFor();
    expect(await page.evaluate(() => 'hurt' in window)).to.equal(false);
  });

  it('leaves nothing to complain of in the browser', () => {
    const expected = /404|Failed to load resource|ERR_FAILED|ERR_INTERNET_DISCONNECTED|Failed to fetch/;
    expect(complaints.filter((text) => !expected.test(text))).to.deep.equal([]);
  });
});
