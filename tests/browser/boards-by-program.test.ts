import { expect } from 'chai';
import { startApp, type RunningApp } from '../support/app';
import { programOf, type Call } from '../support/program';
import { linesPanel, signalOf, type BoardBody } from '../support/visit';

/** The API as other programs, and people who mean ill, use it: the built application over HTTP. */
describe('boards, as programs use them', () => {
  let app: RunningApp;
  let nerea: Call;
  let oda: Call;
  let stranger: Call;
  const empty = { pickers: [], sections: [], panels: [] };
  const made = async (title: string, panels: object[] = []): Promise<BoardBody> => {
    const { status, body } = await nerea('POST', '/boards', { ...empty, title, panels });
    expect(status, JSON.stringify(body)).to.equal(201);
    return body;
  };

  before(async function () {
    this.timeout(240_000);
    app = await startApp({ accounts: true });
    await app.live(1);
    [nerea, oda, stranger] = await Promise.all([programOf(app, 'nerea'), programOf(app, 'oda'), programOf(app, null)]);
  });
  after(async function () {
    this.timeout(90_000);
    await app.stop();
  });

  it('a board is made, read, changed and removed; each change is a version that can be read', async () => {
    const { id, version } = await made('Cycle', [linesPanel('a', 0, 0)]);
    expect(version).to.equal(1);
    const changed = await nerea('PUT', `/boards/${id}`, { ...empty, title: 'Cycle', about: 'Changed', version: 1 });
    expect(changed).to.have.property('status', 200);
    expect(changed.body).to.deep.include({ version: 2, about: 'Changed', panels: [] });
    const { versions } = (await nerea('GET', `/boards/${id}/versions`)).body as {
      versions: { version: number; summary: string; madeBy: string }[];
    };
    expect(versions.map(({ version: of, madeBy }) => [of, madeBy])).to.deep.equal([
      [2, 'Nerea Olmo'],
      [1, 'Nerea Olmo']
    ]);
    expect(versions[0]?.summary).to.contain('Panel a');
    const first = await nerea('GET', `/boards/${id}/versions/1`);
    expect((first.body as { board: BoardBody }).board.panels).to.have.length(1);
    expect((await nerea('GET', `/boards/${id}/versions/3`)).status).to.equal(404);
    expect((await nerea('DELETE', `/boards/${id}`)).status).to.equal(204);
    for (const [method, path] of [
      ['GET', ''],
      ['DELETE', ''],
      ['GET', '/versions'],
      ['GET', '/file']
    ] as const)
      expect((await nerea(method, `/boards/${id}${path}`)).status, `${method} ${path}`).to.equal(404);
  });

  it('who changes what was changed meanwhile is refused, and changes nothing', async () => {
    const { id } = await made('Contested');
    await nerea('PUT', `/boards/${id}`, { ...empty, title: 'Contested', about: 'first', version: 1 });
    const late = await nerea('PUT', `/boards/${id}`, { ...empty, title: 'Contested', about: 'second', version: 1 });
    expect(late.status).to.equal(409);
    expect(late.body).to.deep.include({
      code: 'changed-meanwhile',
      message: 'Nerea Olmo changed this board meanwhile.'
    });
    expect((await nerea('GET', `/boards/${id}`)).body).to.include({ about: 'first', version: 2 });
  });

  it('a signal is put on a board, and what a panel shows is changed, wherever it has been moved', async () => {
    const { id } = await made('Grown');
    const put = await nerea('POST', `/boards/${id}/panels`, {
      title: 'Depth',
      signal: signalOf('queue.depth'),
      picture: 'areas'
    });
    expect(put.status).to.equal(201);
    const [panel] = (put.body as BoardBody).panels;
    expect(panel).to.deep.include({ title: 'Depth', picture: 'areas' });
    const signal = signalOf('queue.depth', 'max');
    const other = await nerea('PUT', `/boards/${id}/panels/${panel?.id}`, { signal });
    expect((other.body as { panels: object[] }).panels[0]).to.deep.include({ signal });
    expect((await nerea('PUT', `/boards/${id}/panels/none`, { signal })).status).to.equal(404);
    const unknown = await nerea('POST', `/boards/${id}/panels`, { title: 'x', signal: signalOf('no.such.metric') });
    expect(unknown.status).to.equal(422);
    expect(unknown.body).to.deep.include({ message: 'There is no metric named no.such.metric.' });
    const full = await nerea('PUT', `/boards/${id}`, {
      ...empty,
      title: 'Grown',
      version: 3,
      panels: Array.from({ length: 101 }, (_, i) => linesPanel(`p${i}`, 0, i * 4))
    });
    expect(full.status).to.equal(400);
  });

  it('what cannot be read names each path and keeps nothing', async () => {
    const panel = linesPanel('a', 0, 0);
    const bad: [what: string, body: unknown, path: string][] = [
      ['an unknown field', { ...empty, title: 'Bad', colour: 'red' }, ''],
      ['no title', { ...empty, title: '  ' }, 'title'],
      ['a title of a book', { ...empty, title: 'x'.repeat(121) }, 'title'],
      ['a picture that does not exist', { ...empty, title: 'Bad', panels: [{ ...panel, picture: 'cake' }] }, 'panels'],
      ['a panel beside the grid', { ...empty, title: 'Bad', panels: [linesPanel('a', 12, 0)] }, 'panels'],
      ['two panels of one id', { ...empty, title: 'Bad', panels: [panel, linesPanel('a', 6, 0)] }, 'panels'],
      ['a section that is not there', { ...empty, title: 'Bad', panels: [{ ...panel, section: 's' }] }, 'panels'],
      ['a list', [], ''],
      ['nothing', null, '']
    ];
    for (const [what, body, path] of bad) {
      const answer = await nerea('POST', '/boards', body);
      expect(answer.status, what).to.equal(400);
      const { problems } = answer.body as { problems: { path: string; message: string }[] };
      expect(problems, what).to.not.be.empty;
      if (path !== '') expect(JSON.stringify(problems), what).to.contain(path);
    }
    expect((await nerea('POST', '/boards', '{ "title": ')).status, 'half a text').to.equal(400);
    expect((await nerea('POST', '/boards', 'x'.repeat(17_000_000))).status, '17 MB').to.equal(413);
    const { boards } = (await nerea('GET', '/boards')).body as { boards: BoardBody[] };
    expect(boards.map(({ title }) => title)).to.not.include('Bad');
  });

  it('markup in titles and texts is kept as it is written, and a file of it is the same board', async () => {
    const title = `<img src=x onerror="alert(1)"> "quoted" & 'more'`;
    const { id } = await made(title, [{ ...linesPanel('a', 0, 0), title }]);
    const file = (await nerea('GET', `/boards/${id}/file?format=json`)).body as { title: string };
    const plan = await nerea('POST', '/boards/plan', { text: JSON.stringify(file), into: id });
    expect(plan.body).to.deep.include({ kind: 'plan', differences: [], unknown: [] });
    const yaml = (await nerea('GET', `/boards/${id}/file`)).body as string;
    expect((await nerea('POST', '/boards/plan', { text: yaml, into: id })).body).to.deep.include({ differences: [] });
    expect((await nerea('GET', `/boards/${id}`)).body).to.include({ title });
  });

  it('a viewer reads every board and can change none; a stranger is asked to sign in', async () => {
    const { id, version } = await made('Read only', [linesPanel('a', 0, 0)]);
    const board = `/boards/${id}`;
    const changes: [method: string, path: string, body?: unknown][] = [
      ['POST', '/boards', { ...empty, title: 'Sneaked in' }],
      ['PUT', board, { ...empty, title: 'Taken over', version }],
      ['DELETE', board],
      ['POST', `${board}/panels`, { title: 'x', signal: signalOf('queue.depth') }],
      ['PUT', `${board}/panels/a`, { signal: signalOf('queue.depth') }],
      ['GET', `${board}/sharing`],
      ['PUT', `${board}/sharing`, { reach: 'private', everyone: 'view', named: [] }],
      ['POST', `${board}/links`, { days: 1, choices: {} }],
      ['DELETE', `${board}/links/1`],
      ['POST', '/boards/plan', { text: '{}' }],
      ['POST', '/boards/apply', { text: '{}' }],
      ['POST', '/marks', { text: 'x', from: '2026-05-04T14:00:00Z' }],
      ['DELETE', '/marks/1']
    ];
    for (const [method, path, body] of changes) {
      expect((await oda(method, path, body)).status, `a viewer's ${method} ${path}`).to.equal(403);
      expect((await stranger(method, path, body)).status, `a stranger's ${method} ${path}`).to.equal(401);
    }
    expect((await oda('GET', board)).body).to.include({ title: 'Read only', version });
    expect((await oda('PUT', `${board}/favourite`, { favourite: true })).status).to.equal(200);
    for (const path of ['/boards', board, `${board}/versions`, `${board}/file`, '/marks', '/metrics'])
      expect((await stranger('GET', path)).status, path).to.equal(401);
  });

  it('who is on a board is told to the others there', async () => {
    const { id } = await made('Visited');
    const here = (who: Call, panel: string | null) =>
      who('POST', `/boards/${id}/presence`, { editing: panel !== null, panel }).then(
        ({ body }) => (body as { others: object[] }).others
      );
    expect(await here(nerea, 'a')).to.deep.equal([]);
    expect(await here(oda, null)).to.deep.equal([{ name: 'Nerea Olmo', editing: true, panel: 'a' }]);
    expect((await nerea('POST', `/boards/${id}/presence`, { editing: 'yes', panel: 7 })).status).to.equal(400);
  });

  it('marks of a private board are there for nobody else, not even to be taken away', async () => {
    const ivo = await programOf(app, 'ivo');
    const { id } = await made('Secret');
    await nerea('PUT', `/boards/${id}/sharing`, { reach: 'private', everyone: 'view', named: [] });
    const at = '2026-05-04T14:00:00Z';
    const put = await nerea('POST', '/marks', { text: 'merger', from: at, board: id });
    expect(put.status).to.equal(201);
    const mark = `/marks/${(put.body as { id: number }).id}`;
    expect((await ivo('DELETE', mark)).status).to.equal(404);
    expect((await ivo('POST', '/marks', { text: 'guess', from: at, board: id })).status).to.equal(404);
    const span = 'from=2026-05-04T13:00:00Z&to=2026-05-04T15:00:00Z';
    expect((await ivo('GET', `/marks?${span}&board=${id}`)).status).to.equal(404);
    expect((await ivo('GET', `/marks?${span}`)).body).to.deep.equal({ marks: [] });
    const { marks } = (await nerea('GET', `/marks?${span}&board=${id}`)).body as { marks: { text: string }[] };
    expect(marks.map(({ text }) => text)).to.deep.equal(['merger']);
    expect((await nerea('DELETE', mark)).status).to.equal(204);
    expect((await nerea('DELETE', mark)).status, 'it is gone').to.equal(404);
  });

  it('signals of a board are answered together: each in its range, a fault beside the answers', async () => {
    const asked = {
      signals: [signalOf('machine.processor.use'), signalOf('no.such.metric'), signalOf('queue.depth')],
      from: '2026-05-04T13:00:00Z',
      to: '2026-05-04T14:00:00Z',
      spans: [
        { from: '2026-05-04T13:00:00Z', to: '2026-05-04T14:00:00Z' },
        { from: '2026-05-04T13:00:00Z', to: '2026-05-04T14:00:00Z' },
        { from: '2026-05-04T13:30:00Z', to: '2026-05-04T14:00:00Z' }
      ]
    };
    const { status, body } = await oda('POST', '/queries', asked);
    expect(status).to.equal(200);
    const [hour, fault, half] = body as { count: number; series: object[]; message?: string }[];
    expect([hour?.count, half?.count]).to.deep.equal([60, 30]);
    expect(fault?.message).to.equal('There is no metric named no.such.metric.');
    expect((await oda('POST', '/queries', { ...asked, spans: asked.spans.slice(1) })).status).to.equal(400);
    expect((await stranger('POST', '/queries', asked)).status).to.equal(401);
  });

  it('what a link shows is asked for by its token alone, as it was picked', async () => {
    const { id } = await made('By token', [linesPanel('a', 0, 0)]);
    const link = (await nerea('POST', `/boards/${id}/links`, { days: 1, choices: {} })).body as {
      id: number;
      address: string;
    };
    const token = link.address.split('/').at(-1) as string;
    const span = { from: '2026-05-04T13:00:00Z', to: '2026-05-04T14:00:00Z' };
    const ask = (asks: object[]) => stranger('POST', `/shared/${token}/queries`, { asks, ...span });
    expect((await ask([{ panel: 'a', column: 0 }])).status).to.equal(200);
    expect((await ask([{ panel: 'a', column: 0, statistic: 'max', step: 'PT5M' }])).status).to.equal(200);
    expect((await ask([{ panel: 'a', column: 1 }])).status).to.equal(404);
    expect((await ask([{ panel: 'a', column: 0, where: [] }])).status).to.equal(400);
    expect((await stranger('POST', `/shared/${token}x/queries`, { asks: [], ...span })).status).to.equal(404);
    expect((await nerea('POST', `/boards/${id}/links`, { days: 4000, choices: {} })).status).to.equal(400);
    app.clock.pass(24 * 60);
    expect((await ask([{ panel: 'a', column: 0 }])).status, 'a day later').to.equal(404);
  });
});
