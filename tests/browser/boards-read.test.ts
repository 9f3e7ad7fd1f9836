import { expect } from 'chai';
import { until } from '../support/until';
import { linesPanel, withVisit, type BoardBody } from '../support/visit';

describe('boards, as people read them', () => {
  const visit = withVisit({ minutes: 4 });
  const { region, button, kept, made, read } = visit;

  it('one picker, made in two clicks, drives five panels, and is in the address', async () => {
    const metrics = ['machine.processor.use', 'machine.memory.use', 'machine.network.in', 'machine.network.out'];
    const panels = metrics.map((metric, i) => linesPanel(`p${i}`, (i % 2) * 6, Math.floor(i / 2) * 4, metric));
    const { id } = await made('Five', [...panels, { ...linesPanel('p9', 0, 8, 'queue.depth'), title: 'Depth' }]);
    await visit.page.goto(`${visit.app.origin}/boards/${id}?edit`);
    await button('Pickers …').click();
    await button(/^Resource/).click();
    await visit.page.keyboard.press('Escape');
    await kept().waitFor();
    await button('Done').click();
    await button('Resource: all').click();
    await visit.page.getByLabel('Find a value of Resource').fill('booking-web-1');
    await visit.page.getByLabel('Find a value of Resource').press('Enter');
    await visit.page.waitForURL(/pick\.resource=booking-web-1/);
    await visit.page.keyboard.press('Escape');
    for (const panel of panels) {
      const rows = region(panel.title).locator('tbody tr');
      await until('one machine', async () => (await rows.count()) === 1);
      expect(await rows.first().innerText()).to.match(/^booking-web-1/);
    }
    await button('More of Panel p0').click();
    await button('Copy as CSV').click();
    await visit.page.getByRole('status').filter({ hasText: 'Copied as CSV.' }).waitFor();
    const csv = await visit.page.evaluate(() => navigator.clipboard.readText());
    expect(csv, 'what is copied is what is shown').to.contain('booking-web-1').and.not.contain('booking-web-2');
    await visit.page.keyboard.press('Escape');
    await button('Why is this empty?').click(); // the queues have no such resource
    await region('Depth')
      .getByText(/^Resource is booking-web-1/)
      .waitFor();
    await region('Depth').getByRole('button', { name: 'Choose all' }).click();
    await region('Depth').locator('canvas').waitFor();
    expect(visit.page.url()).to.not.contain('pick.');
    await visit.page.goBack();
    await button('Resource: booking-web-1').waitFor();
  });

  it('a list of values that cannot be read says so, and is read again', async () => {
    const pickers = [{ name: 'resource', title: 'Resource', label: 'resource', several: true, usual: [] }];
    const { id } = await made('Lost values', [linesPanel('a', 0, 0)], { pickers });
    await visit.page.goto(`${visit.app.origin}/boards/${id}?edit`);
    await visit.page.route('**/api/v1/picks', (route) => route.abort());
    for (const [opened, what] of [
      ['Resource: all', 'values'],
      ['Pickers …', 'labels']
    ] as const) {
      await button(opened).click();
      await visit.page
        .getByRole('alert')
        .filter({ hasText: `The ${what} could not be read.` })
        .waitFor();
      await visit.page.keyboard.press('Escape');
    }
    await button('Resource: all').click();
    await button('Try again').waitFor(); // or the values are asked for when they can be read again
    await visit.page.unroute('**/api/v1/picks');
    await button('Try again').click();
    await visit.page.getByRole('checkbox', { name: /^booking-web-1/ }).waitFor();
  });

  it('a span dragged on one chart moves all, one can be unlinked, and a double click steps back', async () => {
    const { id } = await made('Linked', [linesPanel('a', 0, 0), linesPanel('b', 6, 0)]);
    await visit.page.goto(`${visit.app.origin}/boards/${id}?range=PT1H`);
    const chart = (name: string) => region(name).locator('canvas');
    await chart('Panel b').waitFor();
    const drag = async (name: string, from: number, to: number) => {
      const box = (await chart(name).boundingBox())!;
      await visit.page.mouse.move(box.x + box.width * from, box.y + 40);
      await visit.page.mouse.down();
      await visit.page.mouse.move(box.x + box.width * to, box.y + 40, { steps: 5 });
      await visit.page.mouse.up();
    };
    const asked = () =>
      visit.page
        .waitForRequest((request) => request.url().endsWith('/api/v1/queries'))
        .then((request) => request.postDataJSON() as { signals: object[]; from: string; to: string });
    const both = asked();
    await drag('Panel a', 0.4, 0.6);
    await visit.page.waitForURL(/from=.*to=/);
    expect((await both).signals).to.have.length(2);
    await button('More of Panel b').click();
    await button('Unlink from the board’s range').click();
    await region('Panel b').getByText('unlinked').waitFor();
    const address = visit.page.url();
    const one = asked();
    await drag('Panel b', 0.3, 0.7);
    expect((await one).signals).to.have.length(1);
    expect(visit.page.url()).to.equal(address);
    await chart('Panel b').dblclick({ position: { x: 200, y: 40 } });
    await button('More of Panel b').click();
    await button('Link to the board’s range').click();
    await region('Panel b').getByText('unlinked').waitFor({ state: 'detached' });
    await chart('Panel a').dblclick({ position: { x: 200, y: 40 } });
    await visit.page.waitForURL(/range=PT1H/);
  });

  it('is read in other ways for a while: another statistic, earlier beside now, as a table, alone, large, as CSV and PNG', async () => {
    const { id } = await made('Reading', [linesPanel('a', 0, 0), linesPanel('b', 6, 0)]);
    await visit.page.goto(`${visit.app.origin}/boards/${id}`);
    await region('Panel a').locator('canvas').waitFor();
    await button('More of Panel a').click();
    await visit.page.getByLabel('Statistic').selectOption('max');
    await until('the sentence', async () =>
      (await region('Panel a').locator('small').innerText()).startsWith('Maximum')
    );
    const earlier = visit.page.waitForRequest((request) => request.url().endsWith('/api/v1/queries'));
    await visit.page.getByLabel('Compare with').selectOption('1 day earlier');
    await earlier;
    await region('Panel a').getByText('dotted: 1 day earlier').waitFor();
    await button('Copy as CSV').click();
    await visit.page.getByRole('status').filter({ hasText: 'Copied as CSV.' }).waitFor();
    expect(await visit.page.evaluate(() => navigator.clipboard.readText())).to.match(/booking-web-1/);
    const download = visit.page.waitForEvent('download');
    await button('Save as PNG').click();
    expect((await download).suggestedFilename()).to.equal('Panel a.png');
    await button('More of Panel a').click();
    await button('Show as a table').click();
    await region('Panel a').getByRole('columnheader', { name: 'When' }).waitFor();
    await region('Panel b').locator('tbody button').first().click();
    await region('Panel b').locator('[aria-pressed=true]').waitFor();
    await button('Maximise Panel b').click();
    await visit.page.waitForURL(/panel=b/);
    await region('Panel a').waitFor({ state: 'detached' });
    await button('Make Panel b small again').click();
    await region('Panel a').waitFor();
    expect((await read(id)).version, 'nothing of it is kept').to.equal(1);
  });

  it('ranges are typed, times told in UTC, and cells of all panels made longer', async () => {
    await visit.app.db.rows("update people set zone = 'Europe/Berlin' where name = 'nerea'");
    const { id } = await made('Timed', [linesPanel('a', 0, 0)]);
    await visit.page.goto(`${visit.app.origin}/boards/${id}`);
    await region('Panel a').locator('canvas').waitFor();
    await visit.page.keyboard.press('.');
    await visit.page.getByLabel('Type a range').fill('the other day');
    await button('Show').click();
    await visit.page
      .getByRole('alert')
      .getByText(/^Write for example/)
      .waitFor();
    await visit.page.getByLabel('Type a range').fill('last 90 min');
    await button('Show').click();
    await visit.page.waitForURL(/range=PT90M/);
    await visit.page.keyboard.press('.');
    const asked = visit.page.waitForRequest((request) => request.url().endsWith('/api/v1/queries'));
    await visit.page.getByLabel('Cells of a board’s panels').selectOption('5 minutes');
    const { signals } = (await asked).postDataJSON() as { signals: { step: string }[] };
    expect(signals.map(({ step }) => step)).to.deep.equal(['PT5M']);
    const zone = visit.page.getByText(/^Times are in/);
    expect(await zone.innerText()).to.not.contain('Times are in UTC.');
    await button('Use UTC').click();
    await until('UTC', async () => (await zone.innerText()).startsWith('Times are in UTC.'));
    await visit.page.keyboard.press('Escape');
  });

  it('marks are put by people and by programs, are seen on charts, and compare before with after', async () => {
    const { id } = await made('Marked', [
      linesPanel('a', 0, 0),
      { id: 'm', title: 'Marks', picture: 'marks', place: { x: 6, y: 0, w: 6, h: 4 } }
    ]);
    await visit.page.goto(`${visit.app.origin}/boards/${id}`);
    await button('Mark …').click();
    await visit.page.getByLabel('What happened').fill('fares 4.18 deployed');
    await button('Put the mark').click();
    await region('Marks').getByText('fares 4.18 deployed').waitFor();
    await visit.page.goto(`${visit.app.origin}/receive`);
    await visit.page.getByLabel('Name').fill('deployer');
    await button(/^Make/).click();
    const key = await until(
      'the key',
      async () => /bussola-[\w-]{20,}/.exec(await visit.page.locator('main').innerText())?.[0]
    );
    const put = (data: object, authorization: string) =>
      visit.page.request.post(`${visit.app.origin}/api/v1/receive/marks`, { data, headers: { authorization } });
    const now = new Date(visit.app.clock.now()).toISOString();
    expect(
      (await put({ text: 'gate-api 2 deployed', from: now, service: 'machines' }, `Bearer ${key}`)).status()
    ).to.equal(201);
    expect((await put({ text: 'x', from: now }, 'Bearer wrong')).status()).to.equal(401);
    expect((await put({ text: '', from: 'soon' }, `Bearer ${key}`)).status()).to.equal(400);
    await visit.page.goto(`${visit.app.origin}/boards/${id}`);
    await region('Marks').getByText('by deployer').waitFor();
    await visit.page.locator('svg title', { hasText: 'gate-api 2 deployed' }).first().waitFor({ state: 'attached' }); // on the logbook
    await region('Marks').getByRole('link', { name: 'an hour before and after' }).first().click();
    await visit.page.getByRole('status').filter({ hasText: 'Dotted: 1 hour earlier.' }).waitFor();
    await button('Compare no more').click();
    await visit.page.waitForURL((url) => !url.searchParams.has('earlier'));
    await visit.page.goto(`${visit.app.origin}/boards/${id}`);
    const mine = region('Marks').getByRole('listitem').filter({ hasText: 'fares 4.18' });
    await mine.getByRole('button', { name: 'remove' }).click();
    await mine.waitFor({ state: 'detached' });
    await button('Restore').click();
    await mine.waitFor();
    await visit.page.route('**/api/v1/marks/*', (route) => route.abort());
    await mine.getByRole('button', { name: 'remove' }).click();
    await region('Marks')
      .getByRole('alert')
      .filter({ hasText: 'Bussola could not be reached. Check the connection and try again.' })
      .waitFor();
    expect(await mine.count(), 'it is still there').to.equal(1);
    await visit.page.unroute('**/api/v1/marks/*');
  });

  it('a wall turns from board to board, and says when the connection is lost', async () => {
    const first = await made('Wall one', [linesPanel('a', 0, 0)]);
    const second = await made('Wall two', [linesPanel('b', 0, 0)]);
    await visit.page.goto(`${visit.app.origin}/boards`);
    await visit.page.getByLabel('Wall one on the wall').first().check();
    await visit.page.getByLabel('Wall two on the wall').first().check();
    await visit.page.getByRole('link', { name: 'Wall display with 2 boards' }).click();
    await visit.page.waitForURL(`**/wall?boards=${first.id},${second.id}`);
    await region('Panel a').locator('canvas').waitFor();
    await visit.page.keyboard.press('ArrowRight');
    await region('Panel b').locator('canvas').waitFor();
    await visit.page.getByText('2 of 2').waitFor();
    await visit.page.route('**/live', (route) => route.abort());
    await visit.page.reload();
    await visit.page.getByRole('alert').filter({ hasText: 'Connection lost: what is shown is of' }).waitFor();
    await region('Panel a').locator('canvas').waitFor();
    await visit.page.unroute('**/live');
    await visit.page.getByRole('alert').waitFor({ state: 'detached' });
    await visit.page.keyboard.press('ArrowRight');
    await region('Panel b').locator('canvas').waitFor();
    await visit.page.keyboard.press('Escape');
    await visit.page.waitForURL(`**/boards/${second.id}`);
  });

  it('a resource has a page of its own, from which a panel is added to a board', async () => {
    const { id } = await made('Collected', []);
    await visit.page.goto(`${visit.app.origin}/services/machines/board`);
    await region('Processor use').locator('canvas').waitFor();
    await visit.page.keyboard.press('/');
    await visit.page.keyboard.type('ticket-orders-r1');
    await visit.page.keyboard.press('Enter');
    await visit.page.getByRole('heading', { name: 'ticket-orders-r1', level: 1 }).waitFor();
    await region('Alarms').getByText('No alarm watches it').waitFor();
    await region('Connections in use').locator('canvas').waitFor();
    await button('More of Connections in use').click();
    await visit.page.getByLabel('Add to a board').selectOption('Collected');
    await visit.page.getByRole('status').filter({ hasText: 'Added to Collected.' }).waitFor();
    expect((await read(id)).panels.map(({ title }) => title)).to.deep.equal(['Connections in use']);
    await visit.page.goto(`${visit.app.origin}/services/databases/board`);
    await region('Every database now').getByRole('cell', { name: 'ticket-orders-r1' }).waitFor();
    await button('More of Every database now').click();
    await visit.page.getByLabel('Add to a board').selectOption('Collected');
    await visit.page.getByRole('status').filter({ hasText: 'Added to Collected.' }).waitFor();
    const [, list] = (await read(id)).panels as (BoardBody['panels'][number] & { columns?: object[] })[];
    expect([list?.picture, (list?.columns?.length ?? 0) > 3], 'with all its columns').to.deep.equal(['snapshot', true]);
  });

  it('leaves nothing to complain of in the browser', () => {
    const expected = /404|Failed to load resource|ERR_FAILED|ERR_INTERNET_DISCONNECTED|Failed to fetch/;
    expect(visit.complaints.filter((text) => !expected.test(text))).to.deep.equal([]);
  });
});
