import { expect } from 'chai';
import type { KeyScope } from '../../src/lib/core/people/key-scopes';
import { plainSignal } from '../../src/lib/core/signal';
import { makeKey } from '../../src/lib/server/intake/receive/keys';
import { startApp, type RunningApp } from '../support/app';
import { programOf, sessionOf as session, type Call } from '../support/program';
import { linesPanel } from '../support/visit';

/** The API as programs use it that have a key and no sign-in: the built application over HTTP. */
describe('the API, as programs with a key use it', () => {
  let app: RunningApp;
  let nerea: Call;
  const keys = {} as Record<KeyScope, string>;
  let board: number;
  let hidden: number;

  const ask = (path: string, { key = 'read', ...more }: RequestInit & { key?: KeyScope | null } = {}) =>
    fetch(`${app.origin}${path}`, {
      redirect: 'manual',
      ...more,
      headers: { ...(key === null ? {} : { authorization: `Bearer ${keys[key]}` }), ...(more.headers as object) }
    });
  const codeOf = async (response: Response) => {
    expect(response.headers.get('content-type')).to.equal('application/problem+json');
    const problem = (await response.json()) as { code: string; status: number; message: string; detail: string };
    expect(problem.status).to.equal(response.status);
    expect(problem.detail).to.equal(problem.message);
    return [response.status, problem.code];
  };

  before(async function () {
    this.timeout(240_000);
    app = await startApp({ accounts: true });
    await app.live(1);
    nerea = await programOf(app, 'nerea');
    const { id: owner } = (await nerea('GET', '/me')).body as { id: number };
    for (const scope of ['read', 'metrics', 'change'] as const)
      keys[scope] = (
        await makeKey(app.db, {
          name: `program-${scope}`,
          scopes: [scope],
          expiresAt: null,
          mostSeries: 10,
          mostBytesADay: 1_000_000,
          createdAt: app.clock.now(),
          createdBy: 'Nerea Olmo',
          ownerId: owner
        })
      ).text;
    const plain = { pickers: [], sections: [], panels: [linesPanel('a', 0, 0)] };
    const made = async (title: string) =>
      ((await nerea('POST', '/boards', { ...plain, title })).body as { id: number }).id;
    [board, hidden] = [await made('For all'), await made('For one')];
    await nerea('PUT', `/boards/${board}/sharing`, { reach: 'workspace', everyone: 'view', named: [] });
    await nerea('PUT', `/boards/${hidden}/sharing`, { reach: 'private', everyone: 'view', named: [] });
  });
  after(async function () {
    this.timeout(90_000);
    await app.stop();
  });

  it('an answer has a tag, by which it need not be sent again, and what was changed meanwhile is not changed', async () => {
    const address = `/api/v1/boards/${board}`;
    const first = await ask(address);
    const tag = first.headers.get('etag') ?? '';
    expect(tag).to.match(/^"[\w-]{28}"$/);
    const again = await ask(address, { headers: { 'if-none-match': tag } });
    expect([again.status, await again.text()]).to.deep.equal([304, '']);
    expect(first.headers.get('ratelimit-policy')).to.equal('"key";q=1200;w=60');
    const left = (response: Response) => Number(/r=(\d+)/.exec(response.headers.get('ratelimit') ?? '')?.[1]);
    expect(left(again)).to.equal(left(first) - 1);
    const cookie = (await session(app.origin, 'nerea')) ?? '';
    const put = (ifMatch: string, title: string) =>
      fetch(`${app.origin}${address}/sharing`, {
        method: 'PUT',
        headers: { cookie, origin: app.origin, 'content-type': 'application/json', 'if-match': ifMatch },
        body: JSON.stringify({ reach: 'workspace', everyone: title, named: [] })
      });
    const sharing = await fetch(`${app.origin}${address}/sharing`, { headers: { cookie } });
    const read = sharing.headers.get('etag') ?? '';
    expect((await put(read, 'edit')).status).to.be.within(200, 204);
    const late = await put(read, 'view');
    expect(await codeOf(late)).to.deep.equal([412, 'not-as-read']);
    expect((await put('*', 'view')).status).to.be.within(200, 204);
    const now = (await fetch(`${app.origin}${address}/sharing`, { headers: { cookie } })).headers.get('etag') ?? '';
    const both = await Promise.all([put(now, 'edit'), put(now, 'edit')]);
    expect(
      both.map(({ status }) => status).filter((status) => status === 412),
      'of two at once'
    ).to.have.length(1);
  });

  it('what is sent again with its key is done once', async () => {
    const cookie = (await session(app.origin, 'nerea')) ?? '';
    const signal = plainSignal({ metric: 'machine.processor.use', statistic: 'max' });
    const post = (name: string) =>
      fetch(`${app.origin}/api/v1/signals`, {
        method: 'POST',
        headers: { cookie, origin: app.origin, 'content-type': 'application/json', 'idempotency-key': '"5d8f"' },
        body: JSON.stringify({ name, signal })
      });
    const [first, second] = [await post('Twice'), await post('Twice')];
    expect([first.status, second.status]).to.deep.equal([201, 201]);
    expect(second.headers.get('idempotency-replayed')).to.equal('true');
    expect(await second.json()).to.deep.equal(await first.json());
    expect(await codeOf(await post('Another'))).to.deep.equal([422, 'key-reused']);
  });

  it('parameters that nothing can be found by are refused in words, or find nothing', async () => {
    for (const [path, status] of [
      ['/events?text=%00', 400],
      ['/events?resourceId=99999999999999999999', 400],
      ['/events?from=2026-05-04T00:00:00Z', 400],
      ['/events?text=%ED%A0%80', 200]
    ] as const)
      expect((await ask(`/api/v1${path}`)).status, path).to.equal(status);
  });

  it('instants are RFC 3339, or milliseconds for those who prefer them', async () => {
    const newest = async (headers: object) => {
      const response = await ask('/api/v1/accounts', { headers: headers as Record<string, string> });
      return ((await response.json()) as { accounts: { newestAt: unknown }[] }).accounts[0]?.newestAt;
    };
    const text = await newest({});
    expect(text).to.match(/^2026-05-04T\d\d:\d\d:\d\d\.\d{3}Z$/);
    expect(await newest({ prefer: 'respond-async, times=epoch' })).to.equal(Date.parse(text as string));
    const body = JSON.stringify({
      signal: plainSignal({ metric: 'machine.processor.use', statistic: 'avg' }),
      from: '2026-05-04T13:00:00Z',
      to: '2026-05-04T14:00:00Z'
    });
    const sent = { method: 'POST', body, headers: { 'content-type': 'application/json' } };
    const answer = (await (await ask('/api/v1/query', sent)).json()) as { start: string; now: string };
    expect([answer.start, answer.now.slice(0, 10)]).to.deep.equal(['2026-05-04T13:00:00.000Z', '2026-05-04']);
  });

  it('alarms and channels are made, changed and removed by people, with reasons when they are refused', async () => {
    const { alarms } = (await nerea('GET', '/alarms')).body as { alarms: { id: number; definition: object }[] };
    const definition = { ...alarms[0]?.definition, name: 'Made by a program' };
    const made = await nerea('POST', '/alarms', definition);
    expect(made.status).to.equal(201);
    const { id } = made.body as { id: number };
    const renamed = await nerea('PUT', `/alarms/${id}`, { ...definition, name: 'Renamed' });
    expect((renamed.body as { definition: { name: string } }).definition.name).to.equal('Renamed');
    const wrong = await nerea('PUT', `/alarms/${id}`, { ...definition, route: 99 });
    expect([wrong.status, (wrong.body as { code: string }).code]).to.deep.equal([422, 'route-missing']);
    expect((await nerea('DELETE', `/alarms/${id}`)).status).to.equal(204);
    expect((await nerea('GET', `/alarms/${id}`)).status).to.equal(404);
    const { channels } = (await nerea('GET', '/channels')).body as { channels: { id: number; address: string }[] };
    const used = channels.find(({ address }) => address.startsWith('nerea'));
    const inUse = await nerea('DELETE', `/channels/${used?.id}`);
    expect([inUse.status, (inUse.body as { code: string }).code]).to.deep.equal([409, 'in-use']);
    const added = await nerea('POST', '/channels', { name: 'Night', address: 'night@example.test' });
    expect(added.status).to.equal(201);
    const twice = await nerea('POST', '/channels', { name: 'Night', address: 'night@example.test' });
    expect([twice.status, (twice.body as { code: string }).code]).to.deep.equal([409, 'name-taken']);
    expect((await nerea('DELETE', `/channels/${(added.body as { id: number }).id}`)).status).to.equal(204);
  });

  it('a key does what its scopes permit, and sees what the whole workspace does', async () => {
    const posted = { method: 'POST', body: '{}', headers: { 'content-type': 'application/json' } };
    expect(await codeOf(await ask('/api/v1/boards', posted))).to.deep.equal([403, 'not-allowed']);
    expect(await codeOf(await ask('/api/v1/boards', { key: 'metrics' }))).to.deep.equal([403, 'not-allowed']);
    expect(await codeOf(await ask('/api/v1/lines'))).to.deep.equal([403, 'not-allowed']);
    const [from, to] = ['2026-05-04T10:00:00Z', '2026-05-04T11:00:00Z'];
    const counting = { signal: { version: 2, step: 'PT1M', rows: [{ name: 'a', lines: '' }] }, from, to };
    expect(await codeOf(await ask('/api/v1/query', { ...posted, body: JSON.stringify(counting) }))).to.deep.equal([
      403,
      'not-allowed'
    ]);
    expect(await codeOf(await ask('/api/v1/receive/csv', posted))).to.deep.equal([401, 'key-refused']);
    expect(await codeOf(await ask(`/api/v1/boards/${hidden}`))).to.deep.equal([404, 'not-found']);
    expect(await codeOf(await ask(`/api/v1/boards/${board}/sharing`))).to.deep.equal([403, 'not-allowed']);
    const change = (key: KeyScope, id: number) =>
      ask(`/api/v1/boards/${id}/folder`, { ...posted, method: 'PUT', body: '{"folder":null}', key });
    await nerea('PUT', `/boards/${board}/sharing`, { reach: 'workspace', everyone: 'edit', named: [] });
    expect((await change('change', board)).status).to.equal(204);
    expect(await codeOf(await change('read', board))).to.deep.equal([403, 'not-allowed']);
    expect(await codeOf(await change('change', hidden)), 'private to whoever made the key').to.deep.equal([
      404,
      'not-found'
    ]);
    await nerea('PUT', `/boards/${board}/sharing`, { reach: 'workspace', everyone: 'view', named: [] });
    const listed = (await (await ask('/api/v1/boards')).json()) as { boards: { id: number; may: string }[] };
    expect(listed.boards.map(({ id, may }) => [id, may])).to.deep.equal([[board, 'view']]);
  });

  it('whatever is wrong is a problem in JSON, also for a browser', async () => {
    const page = { headers: { accept: 'text/html' } };
    for (const [path, init, expected] of [
      ['/api', page, [404, 'not-found']],
      ['/api/v2/boards', page, [404, 'not-found']],
      ['/api/v1/nothing', page, [404, 'not-found']],
      ['/api/v1/boards/none', page, [404, 'not-found']],
      ['/api/v1/boards', { ...page, key: null }, [401, 'not-signed-in']],
      ['/api/v1/boards', { method: 'PATCH' }, [405, 'method-not-allowed']],
      ['/api/v1/metrics?limit=0', page, [400, 'invalid']],
      [
        '/api/v1/query',
        { method: 'POST', body: '{', headers: { 'content-type': 'application/json' } },
        [400, 'invalid']
      ],
      ['/api/v1/query', { method: 'POST', body: 'x'.repeat(2_000_000) }, [413, 'too-large']],
      ['/api/v1/boards', { headers: { authorization: 'Bearer nothing' }, key: null }, [401, 'key-refused']]
    ] as const)
      expect(await codeOf(await ask(path, init)), path).to.deep.equal(expected);
  });
});
