import { expect } from 'chai';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { counts } from '../support/count';
import { signedIn } from '../support/pages';
import { runShell } from '../support/shell';
import { until } from '../support/until';
import { linesPanel, signalOf, withVisit } from '../support/visit';

describe('boards, as people share and carry them', () => {
  const visit = withVisit({ minutes: 4 });
  const { region, button, made, read } = visit;

  it('a private board is there for its owner and those named alone, whatever is called', async () => {
    const { id } = await made('Mine alone', [linesPanel('a', 0, 0)]);
    const viewer = await signedIn(visit.browser, visit.app, 'oda');
    await visit.page.goto(`${visit.app.origin}/boards/${id}`);
    await button('Share').click();
    await visit.page.getByLabel('Who sees it').selectOption('private');
    await visit.page.getByRole('status').filter({ hasText: 'Shared so from now on.' }).waitFor();
    const call = viewer.page.request;
    const path = `${visit.app.origin}/api/v1/boards/${id}`;
    const { title, panels, version } = await read(id);
    const statuses = async () => [
      (await call.get(path)).status(),
      (await call.put(path, { data: { title, panels, version } })).status(),
      (await call.get(`${path}/versions`)).status(),
      (await call.get(`${path}/sharing`)).status()
    ];
    expect(await statuses()).to.deep.equal([404, 404, 404, 404]);
    expect((await viewer.page.goto(`${visit.app.origin}/boards/${id}`))?.status()).to.equal(404);
    await visit.page.getByLabel('Name somebody').selectOption({ label: 'every viewer' });
    await visit.page.getByLabel('What every viewer may do').waitFor();
    expect(await statuses()).to.deep.equal([200, 403, 200, 403]);
    expect(await visit.page.getByLabel('What every viewer may do').locator('option').allInnerTexts()).to.deep.equal([
      'view'
    ]);
    // A viewer can be named, and still changes nothing; an editor who is named does.
    await visit.page.getByLabel('Name somebody').selectOption({ label: 'every editor' });
    await visit.page.getByLabel('What every editor may do').selectOption('edit');
    const editor = await signedIn(visit.browser, visit.app, 'ivo');
    await until(
      'the right to edit',
      async () => (await editor.page.request.put(path, { data: { title, panels, version } })).status() === 200
    );
    await editor.page.context().close();
    await viewer.page.context().close();
  });

  it('a link shows one board without signing in, and nothing else, until it is revoked', async () => {
    const { id } = await made('By link', [linesPanel('a', 0, 0)]);
    await visit.page.goto(`${visit.app.origin}/boards/${id}`);
    await button('Share').click();
    await button('Make a link').click();
    const address = await visit.page.getByLabel('The link').inputValue();
    const stranger = await (await visit.browser.newContext()).newPage();
    await stranger.goto(address);
    await region('Panel a', stranger).locator('canvas').waitFor();
    await region('Panel a', stranger).locator('tbody tr').first().waitFor();
    await counts(button(/^Edit|^Share/, stranger), 0);
    const token = new URL(address).pathname.split('/').at(-1);
    const span = { from: '2026-05-04T13:00:00Z', to: '2026-05-04T14:00:00Z' };
    const queries = (asks: object[]) =>
      stranger.request.post(`${visit.app.origin}/api/v1/shared/${token}/queries`, { data: { asks, ...span } });
    expect((await queries([{ panel: 'a', column: 0 }])).status()).to.equal(200);
    expect((await queries([{ panel: 'b', column: 0 }])).status()).to.equal(404);
    expect((await queries([{ signal: signalOf('queue.depth') }])).status()).to.equal(400);
    for (const path of ['/api/v1/query', '/api/v1/queries', `/api/v1/boards/${id}/panels`])
      expect((await stranger.request.post(visit.app.origin + path, { data: {} })).status(), path).to.equal(401);
    await button('Revoke').click();
    await button('Revoke').waitFor({ state: 'detached' });
    expect((await stranger.goto(address))?.status()).to.equal(404);
    await stranger.getByText('This link is not valid any more.').waitFor();
    await stranger.context().close();
  });

  it('a board leaves as a file, is mapped to what is here, comes in again, and its pictures are equal', async () => {
    const only = (account: string) => ({
      ...signalOf('machine.processor.use'),
      rows: [
        { name: 'a', metric: 'machine.processor.use', where: [{ label: 'account', is: [account] }], statistic: 'avg' }
      ]
    });
    const original = await made('Carried', [{ ...linesPanel('a', 0, 0), signal: only('corallo-prod') }]);
    await visit.page.goto(`${visit.app.origin}/boards/${original.id}`);
    const table = () => region('Panel a').locator('tbody').innerText();
    await region('Panel a').locator('canvas').waitFor();
    const drawn = await table();
    await visit.page.getByRole('link', { name: 'File' }).click();
    const download = visit.page.waitForEvent('download');
    await visit.page.getByRole('link', { name: 'Save as YAML' }).click();
    const path = await (await download).path();
    const text = readFileSync(path, 'utf8');
    expect(text).to.match(/^kind: board\nversion: 1\ntitle: Carried\n/);
    const foreign = join(visit.app.data, 'foreign.yaml');
    writeFileSync(foreign, text.replace('corallo-prod', 'elsewhere').replace('title: Carried', 'title: Brought in'));
    await visit.page.goto(`${visit.app.origin}/boards`);
    await visit.page.getByRole('link', { name: 'Import', exact: true }).click();
    await visit.page.getByLabel('A file of this computer').setInputFiles(foreign);
    await button('See what would change').click();
    await visit.page.getByText('The panel “Panel a” was added.').waitFor();
    await visit.page.getByLabel('What takes the place of elsewhere').selectOption('corallo-prod');
    await visit.page.getByLabel('What takes the place of elsewhere').waitFor({ state: 'detached' });
    await button('Make the board').click();
    await visit.page.getByRole('heading', { name: 'Brought in', level: 1 }).waitFor();
    await region('Panel a').locator('canvas').waitFor();
    expect(await table()).to.equal(drawn);
  });

  it('a file is edited with completion, and what is wrong is said at its line', async () => {
    const { id } = await made('Written', [linesPanel('a', 0, 0)]);
    await visit.page.goto(`${visit.app.origin}/boards/${id}/file`);
    const editor = visit.page.getByLabel('The board as a file');
    await editor.click();
    await visit.page.keyboard.press('Control+End');
    await visit.page.keyboard.type('abo');
    await visit.page.getByRole('option', { name: /^about/ }).click(); // Enter is not taken for a moment, lest it chooses by mistake
    await visit.page.keyboard.type('What it is for');
    await button('See what would change').click();
    await visit.page.getByText('The description was nothing, is “What it is for”.').waitFor();
    await button('Change the board').click();
    await visit.page.waitForURL(`**/boards/${id}`);
    await visit.page.getByText('What it is for').waitFor();
    await visit.page.goto(`${visit.app.origin}/boards/${id}/file`);
    await editor.click();
    await visit.page.keyboard.press('Control+End');
    await visit.page.keyboard.type('colour: red');
    await visit.page.locator('.cm-lint-marker-error').first().waitFor();
    await button('See what would change').click();
    await visit.page.getByRole('alert').getByText('colour is not known here.').waitFor();
    expect((await read(id)).version).to.equal(2);
  });

  it('a hostile file is refused in words, and nothing is lost', async () => {
    const call = (data: object) => visit.page.request.post(`${visit.app.origin}/api/v1/boards/apply`, { data });
    const before = (await visit.app.db.rows<{ count: number }>('select count(*) as count from boards'))[0]?.count;
    const answers = [
      await call({ text: 'kind: board\nversion: 9\n' }),
      await call({ text: 'kind: board\nversion: 1\ntitle: x\npanels: []\nshape: round\n' }),
      await call({ text: 'x'.repeat(3_000_000) }),
      await call({ text: 'x'.repeat(50_000_000) }),
      await call({ text: 'kind: board\nversion: 1\ntitle: x\npanels: []\n', into: 9999 })
    ];
    expect(answers.map((answer) => answer.status())).to.deep.equal([400, 400, 400, 413, 404]);
    const told = await Promise.all(answers.map((answer) => answer.text()));
    expect(told[0]).to.contain('written by a newer Bussola, in version 9');
    expect(told[1]).to.contain('shape is not known here');
    expect(told[2]).to.contain('The file has 3 MB; a board has at most 2');
    expect(told[3]).to.contain('The request has more than');
    expect(told[4]).to.contain('There is no such board.');
    const after = (await visit.app.db.rows<{ count: number }>('select count(*) as count from boards'))[0]?.count;
    expect(after).to.equal(before);
    const nowhere =
      'kind: board\nversion: 1\ntitle: Nowhere\npanels:\n  - id: p1\n    title: Lost\n    picture: lines\n    place: { x: 0, y: 0, w: 6, h: 4 }\n    signal: { version: 2, step: PT1M, rows: [{ name: a, metric: no.such.metric, statistic: avg }] }\n';
    const applied = (await (await call({ text: nowhere })).json()) as {
      unknown: { name: string }[];
      kept: { id: number };
    };
    expect(applied.unknown.map(({ name }) => name)).to.deep.equal(['no.such.metric']);
    await visit.page.goto(`${visit.app.origin}/boards/${applied.kept.id}`);
    await region('Lost').getByRole('alert').getByText('There is no metric named no.such.metric.').waitFor();
  });

  it('from a shell, boards are exported, planned and applied through the API', async () => {
    await made('From a shell', [linesPanel('a', 0, 0)]);
    const shell = (...flags: string[]) => runShell(visit.app.origin, 'boards', ...flags);
    const file = join(visit.app.data, 'shell.yaml');
    expect(await shell('export', 'From a shell', '--to', file)).to.deep.equal({
      code: 0,
      said: `From a shell was written to ${file}.\n`
    });
    expect((await shell('plan', file)).said).to.contain('The board already matches the file.');
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
      `Changes of From a shell:\n  The panel “Panel a” is called “Renamed” now.\nApplied: ${visit.app.origin}/boards/${/boards\/(\d+)/.exec(applied.said)?.[1]}\n`
    ]);
    writeFileSync(file, 'kind: board\nversion: 2\n');
    const newer = await shell('apply', file);
    expect([newer.code, newer.said.includes('written by a newer Bussola')]).to.deep.equal([1, true]);
    expect((await shell('export', 'No such')).said).to.match(/^There is no board No such\. There are: /);
  }).timeout(180_000);

  it('markup in titles, labels and texts is shown, not run', async () => {
    const evil = '<img src=x onerror="window.hurt=1"><script>window.hurt=1</script>';
    const text = `${evil}\n\n[a](javascript:window.hurt=1) [b](/boards) <a href="javascript:window.hurt=1">c</a>\n\n![x](x" onerror="window.hurt=1)`;
    const { id } = await made(
      `Hostile ${evil}`,
      [
        { ...linesPanel('a', 0, 0), title: evil },
        { id: 't', title: 'Text', picture: 'text', text, place: { x: 6, y: 0, w: 6, h: 4 } }
      ],
      { pickers: [{ name: 'account', title: evil.slice(0, 60), label: 'account' }], about: evil }
    );
    await visit.page.goto(`${visit.app.origin}/boards/${id}`);
    await region('Text').getByRole('link', { name: 'b' }).waitFor();
    await counts(region('Text').locator('script, img, [onerror], a[href^=javascript]'), 0);
    await visit.page.getByRole('heading', { name: /^Hostile <img/ }).waitFor();
    expect(await visit.page.evaluate(() => 'hurt' in window)).to.equal(false);
  });

  it('leaves nothing to complain of in the browser', () => {
    const expected = /404|Failed to load resource|ERR_FAILED|ERR_INTERNET_DISCONNECTED|Failed to fetch/;
    expect(visit.complaints.filter((text) => !expected.test(text))).to.deep.equal([]);
  });
});
