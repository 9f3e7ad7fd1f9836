import { expect } from 'chai';
import { fork } from 'node:child_process';
import { once } from 'node:events';
import { existsSync, readFileSync } from 'node:fs';
import { createServer, type RequestListener, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { stringify } from 'yaml';
import { accessBy, allOf, connectorOf } from '../../../../../tests/support/connectors';
import { refusalOf } from '../../../../../tests/support/refusal';
import { until } from '../../../../../tests/support/until';
import { instant, minute, range } from '../../../core/time';
import { freshMeter } from '../port/guard';
import { connectorPool, type ConnectorPool } from './connector-pool';
import { connectorProvider } from './connector-provider';
import type { SeenExchange } from './observed';

const clock = { now: () => instant(1_777_903_200_000) };

/** Whoever writes a connector is not trusted: neither with addresses, nor with secrets, nor with time. */
describe('a hostile connector', () => {
  let server: Server;
  let url: string;
  let answer: RequestListener;
  let asked: { url: string; headers: Record<string, unknown> }[] = [];
  let pool: ConnectorPool;

  before(async function () {
    this.timeout(240_000);
    server = createServer((request, response) => {
      asked.push({ url: request.url ?? '', headers: request.headers });
      answer(request, response);
    }).listen(0, '127.0.0.1');
    await once(server, 'listening');
    url = `http://127.0.0.1:${(server.address() as AddressInfo).port}/base`;
    pool = connectorPool({ patienceMs: 1500, memoryMb: 96, startingMs: 8000 });
    await pool.read(''); // its threads have compiled their sources
  });
  beforeEach(() => {
    asked = [];
    answer = (_request, response) => response.setHeader('content-type', 'application/json').end('{"items":[]}');
  });
  after(async () => {
    await pool.close();
    server.closeAllConnections();
    server.close();
  });

  const plain = {
    ...{ kind: 'connector', version: 1, key: 'hostile', name: 'Hostile' },
    signIn: { by: 'header', header: 'x-key' },
    resources: { request: { path: '/items' }, each: 'items', map: '{ "id": id, "name": id, "type": "machine" }' },
    metrics: { request: { path: '/metrics' }, each: 'items', map: '$' },
    points: { by: 'resource', request: { path: '/points' }, each: 'items', map: '$' }
  };
  const textOf = (changed: object): string => stringify({ ...plain, ...changed });
  const resources = (changed: object) => ({ resources: { ...plain.resources, ...changed } });

  /** Discovers by a changed connector. */
  async function discovered(changed: object, seen?: SeenExchange[], endpoint = url) {
    const connector = await connectorOf(pool, textOf(changed));
    const provider = connectorProvider({ clock, pool, connector, ...(seen && { observe: (one) => seen.push(one) }) });
    return provider.discover(accessBy(endpoint, 'key', 'topmost-secret'));
  }
  const refusedBy = async (changed: object) => refusalOf(discovered(changed));

  it('reaches nothing but the address of its account', async () => {
    for (const path of ['/../other', '/%2e%2e/other', '/./../../x'])
      expect((await refusedBy(resources({ request: { path } })))?.code, path).to.equal('refused');
    const { kind } = await pool.read(textOf(resources({ request: { path: 'http://192.0.2.9/' } })));
    expect(kind).to.equal('unreadable');
    const elsewhere = resources({ request: { path: '/{+to}', with: { to: '"../../other"' } } });
    expect((await refusedBy(elsewhere))?.code).to.equal('refused');
    expect(asked).to.deep.equal([]);
    // Something like another address is a path below the account's.
    await discovered(resources({ request: { path: '/{+to}', with: { to: '"/192.0.2.9/x"' } } }));
    expect(asked.map((one) => one.url)).to.deep.equal(['/base//192.0.2.9/x']);
  });

  it('is led nowhere else by links, redirects or whoever gives tokens', async () => {
    answer = (_request, response) =>
      response.setHeader('link', '<http://192.0.2.9/next>; rel="next"').end('{"items":[]}');
    expect((await refusedBy(resources({ pages: { by: 'link' } })))?.message).to.include('at another address');
    answer = (_request, response) => response.writeHead(302, { location: 'http://192.0.2.9/' }).end();
    expect((await refusedBy({}))?.code).to.equal('unreachable');
    answer = (_request, response) =>
      response.end(JSON.stringify({ issuer: url, token_endpoint: 'http://192.0.2.9/token' }));
    const tokens = { signIn: { by: 'client-credentials' } };
    expect((await refusedBy(tokens))?.message).to.include('the address of the account alone');
    answer = (_request, response) =>
      response.end(JSON.stringify({ issuer: 'http://other.example.test', token_endpoint: `${url}/token` }));
    expect((await refusedBy(tokens))?.message).to.include('is not the address of the account');
    expect(asked.every((one) => one.headers['authorization'] === undefined)).to.equal(true);
  });

  it('is subject to the policy on addresses', async () => {
    const refusal = await refusalOf(discovered({}, undefined, 'http://169.254.1.1/'));
    expect(refusal?.message).to.include('169.254.1.1 is link-local');
  });

  it('sees no secret, neither of its account nor of the process', async () => {
    process.env['BUSSOLA_TEST_SECRET'] = 'of the process';
    answer = (_request, response) => response.end('{"items":[{"id":"a"}]}');
    const map = `{
      "id": "a", "type": "machine",
      "name": $string($count($keys($$))) & $type($secret) & $type($access) & $type($process) & $type($env) & $type(constructor) & $type(__proto__)
    }`;
    const seen: SeenExchange[] = [];
    const [found] = await discovered(resources({ map: map.replaceAll('$type', '$exists') }), seen);
    delete process.env['BUSSOLA_TEST_SECRET'];
    expect(found?.name).to.equal('1falsefalsefalsefalsefalsefalse');
    // Whoever looks sees that something signed in, and not by what.
    expect(seen[0]?.signs).to.deep.equal(['x-key']);
    expect(JSON.stringify(seen)).to.not.include('topmost-secret');
    expect(asked[0]?.headers['x-key']).to.equal('Bearer topmost-secret');
    // Nor where the connector gives the header itself that signs in.
    seen.length = 0;
    await discovered(
      {
        ...resources({ request: { path: '/items', headers: { 'x-key': '"mine"', 'x-other': '"mine"' } }, map }),
        signIn: plain.signIn
      },
      seen
    );
    expect([seen[0]?.signs, seen[0]?.headers['x-other']]).to.deep.equal([['x-key'], 'mine']);
    expect(JSON.stringify(seen)).to.not.include('topmost-secret');
    // A part of a request that has the name of the secret has nothing.
    await discovered(resources({ request: { path: '/items{?secret,key}', with: { secret: '$secret', key: '$key' } } }));
    expect(asked.at(-1)?.url).to.equal('/base/items?key=key');
  });

  it('cannot change what other connectors see', async () => {
    answer = (_request, response) => response.end('{"__proto__":{"id":"polluted"},"items":[{"x":1}]}');
    const map =
      '$merge([{ "__proto__": { "name": "polluted" }, "id": "a", "type": "machine" }, $lookup($$, "__proto__")])';
    await refusedBy(resources({ map }));
    answer = (_request, response) => response.end('{"items":[{"id":"b"}]}');
    const found = await discovered(
      resources({ map: '{ "id": id, "name": $exists(name) ? name : "none", "type": "machine" }' })
    );
    expect(found[0]).to.include({ providerId: 'b', name: 'none' });
  });

  for (const [what, map] of [
    ['calls itself without end', '($f := function($x) { $f($x + 1) }; $f(1))'],
    ['goes ever deeper', '($f := function($x) { 1 + $f($x + 1) }; $f(1))'],
    ['grows without end', '($f := function($x) { $f($x & $x) }; $f("aaaa"))'],
    ['makes a list without end', '[1..9999999].{ "a": [1..9999999] }'],
    ['matches without end', '$match("aaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaa!", /^(a+)+$/)']
  ] as const)
    it(`is ended where it ${what}, and others go on`, async function () {
      this.timeout(300_000);
      answer = (_request, response) => response.end('{"items":[{"id":"a"}]}');
      const refusal = await refusedBy(resources({ map }));
      expect(refusal?.code).to.equal('malformed');
      expect(refusal?.remedy).to.have.length.above(10);
      expect((await discovered({})).map(({ providerId }) => providerId)).to.deep.equal(['a']);
    });

  it('leaves nothing behind where Bussola is killed while it goes on', async function () {
    this.timeout(240_000);
    const lone = fork('tests/support/connector-orphan.ts', { execArgv: ['--import', 'tsx'] });
    const [pids] = (await once(lone, 'message')) as [number[]];
    const isThere = (pid: number) => {
      const stat = existsSync(`/proc/${pid}/stat`) ? readFileSync(`/proc/${pid}/stat`, 'utf8') : ') Z';
      return stat.split(') ')[1]?.[0] !== 'Z';
    };
    const expressions = pids.filter((pid) => readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes('connector'));
    expect(expressions.filter(isThere)).to.have.length.above(0);
    lone.kill('SIGKILL');
    await until('all to be gone', () => !expressions.some(isThere));
  });

  it('is refused pages that do not end, and answers beyond all bounds', async () => {
    let count = 0;
    answer = (_request, response) => response.end('{"items":[],"next":"same"}');
    const pages = resources({ pages: { by: 'token', next: 'next' } });
    expect((await refusedBy(pages))?.message).to.include('lead back');
    answer = (_request, response) => {
      count++;
      response.end(count > 5 ? '[' : '{"items":[],"next":"same"}');
    };
    expect((await refusedBy(resources({ pages: { by: 'number', more: 'true' } })))?.code).to.equal('malformed');
    answer = (_request, response) => {
      response.writeHead(200);
      const more = () => {
        while (!response.destroyed && response.write(Buffer.alloc(1 << 20, 'a')));
        if (!response.destroyed) response.once('drain', more);
      };
      more();
    };
    expect((await refusedBy({}))?.message).to.match(/more than \d+ MiB/);
  });

  it('keeps what cannot be sent out of headers', async () => {
    const split = resources({ request: { path: '/items', headers: { 'x-a': '"a\\r\\nx-key: other"' } } });
    expect((await refusedBy(split))?.message).to.include('no header may have');
    for (const header of ['Host', 'content-length', 'a b'])
      expect(
        (await pool.read(textOf(resources({ request: { path: '/', headers: { [header]: '"x"' } } })))).kind
      ).to.equal('unreadable');
  });

  it('is read with all that is wrong, each with its place', async () => {
    const read = await pool.read(
      `${textOf(resources({ each: 'items[', map: '{ "id": ' }))}\nfunctions: { page: 'function(' }\nvalues: { now: 1 }\nunknown: 1\n`
    );
    expect(read.kind === 'unreadable' && read.problems.map(({ path }) => path)).to.deep.equal(['unknown']);
    const expressions = await pool.read(
      textOf({ ...resources({ each: 'items[', map: '{ "id": ' }), values: { now: 1 } })
    );
    expect(expressions.kind === 'unreadable' && expressions.problems.map(({ path }) => path)).to.deep.equal([
      ...['resources.each', 'resources.map', 'now']
    ]);
    expect((await pool.read('x'.repeat(200_000))).kind).to.equal('unreadable');
    expect((await pool.read('kind: connector\nversion: 2')).kind).to.equal('unreadable');
  });

  it('names the thing of an answer that does not fit, and why', async () => {
    answer = (_request, response) => response.end('{"items":[{"id":"a"},{"id":7}]}');
    const refusal = await refusedBy({});
    expect(refusal?.message).to.include('/items').and.to.include('number 2').and.to.include('id');
    const connector = await connectorOf(pool, textOf({}));
    const provider = connectorProvider({ clock, pool, connector });
    answer = (_request, response) =>
      response.end('{"items":[{"resource":"a","metric":"m","points":[[1,2],[2,"x"],[3,null],["4",1],[5,1e999]]}]}');
    const [page] = await allOf(
      provider.fetch(
        { ...accessBy(url, 'k', 's'), guard: { meter: freshMeter(), run: (call) => call() } },
        [{ providerId: 'a', metrics: ['m'] }],
        range(instant(0), instant(minute))
      )
    );
    expect(page).to.include({ refused: 4, refusedExample: 'm of a: [2,"x"]' });
    expect([...page!.series[0]!.points.at]).to.deep.equal([1000]);
  });
});
