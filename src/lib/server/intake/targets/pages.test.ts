import { execFileSync } from 'node:child_process';
import { once } from 'node:events';
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { createServer, type RequestListener, type Server } from 'node:http';
import { createServer as createSecureServer } from 'node:https';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { gzipSync } from 'node:zlib';
import { expect } from 'chai';
import { withHouse } from '../../../../../tests/support/bussola';
import { refusalOf } from '../../../../../tests/support/refusal';
import { until } from '../../../../../tests/support/until';
import { targetsSchema, type Targets } from '../../../core/targets';
import { plainSignal } from '../../../core/signal';
import { accountById } from '../../inventory/accounts';
import { resourcesOfAccount } from '../../inventory/resources';
import { allCollections } from '../ledger/collections';
import { removeAccount } from '../pull/remove-account';
import { changePages, connectPages, tryPages } from './manage-pages';
import { answerQueries } from '../../query/query';
import { targetStates } from './target-states';

describe('OpenMetrics pages', () => {
  const folder = mkdtempSync(join(tmpdir(), 'bussola-pages-'));
  const house = withHouse({}, { BUSSOLA_TARGETS: folder });
  let server: Server;
  let url: string;
  let answer: RequestListener;
  /** What the page said of itself on each request. */
  let requests: { url: string; authorization: string | undefined; header: string | undefined }[] = [];
  let value = 0;

  const page = (): string =>
    `# TYPE requests counter\nrequests_total{path="/quote"} ${++value}\n# TYPE depth gauge\ndepth{secret="x"} 7\n# EOF\n`;
  const usual: RequestListener = (_request, response) =>
    response.writeHead(200, { 'content-type': 'application/openmetrics-text' }).end(page());

  before(async () => {
    answer = usual;
    server = createServer((request, response) => {
      const { authorization } = request.headers;
      requests.push({
        url: request.url ?? '',
        authorization,
        header: request.headers['x-harbour-key'] as string | undefined
      });
      answer(request, response);
    }).listen(0, '127.0.0.1');
    await once(server, 'listening');
    url = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  });
  after(() => {
    server.closeAllConnections();
    server.close();
    rmSync(folder, { recursive: true });
  });

  const listOf = (urls: readonly object[], more: object = {}): Targets =>
    targetsSchema.parse({ find: { by: 'list', targets: urls }, ...more });
  let accounts = 0;
  const connect = (definition: Targets, secret = ''): Promise<number> =>
    connectPages(house.bussola, { name: `pages-${++accounts}`, definition, secret }, 'test');
  const stateOf = async (account: number, name: string) =>
    (await targetStates(house.bussola.db, account)).find((one) => one.name === name);
  /** Lets time pass until pages have been read as often as wanted. */
  const read = async (
    account: number,
    name: string,
    holds: (state: NonNullable<Awaited<ReturnType<typeof stateOf>>>) => boolean
  ) => {
    let looks = 0;
    return until(`${name} as it should be`, async () => {
      if (looks++ % 10 === 0) house.clock.pass(0.25);
      const state = await stateOf(account, name);
      return state !== undefined && holds(state) ? state : false;
    });
  };

  it('are read at their interval: samples, whether they are up, how long they took, and how many lines they have', async () => {
    const account = await connect(listOf([{ url: `${url}/metrics`, name: 'quote-1', labels: { site: 'perla' } }]));
    const first = await read(account, 'quote-1', ({ isUp }) => isUp === true);
    expect([first.samples, first.leftOut, first.problem]).to.deep.equal([2, 0, null]);
    await read(account, 'quote-1', ({ readAt }) => (readAt ?? 0) >= (first.readAt ?? 0) + 45_000);
    const { bussola, clock } = house;
    // Read as any signal is, narrowed by a label of the list.
    const signal = plainSignal({
      metric: 'depth',
      statistic: 'last',
      step: 'PT1M',
      where: [{ label: 'tag.site', is: ['perla'] }]
    });
    const [from, to] = [clock.now() - 120_000, clock.now()].map((at) => new Date(at).toISOString());
    const bytes = await answerQueries(bussola, {
      signals: [signal],
      from: from ?? '',
      to: to ?? '',
      zone: 'UTC',
      values: 'numbers'
    });
    expect(Buffer.from(bytes).toString()).to.match(/"values":\[[^\]]*\b7\b/);
    const [resource] = await resourcesOfAccount(bussola.db, account);
    expect([resource?.name, resource?.service, resource?.type, resource?.tags]).to.deep.equal([
      'quote-1',
      'targets',
      'target',
      { site: 'perla' }
    ]);
    const series = await bussola.db.rows<{ metric: string; labels: object }>(
      'select metric, labels from series where account_id = $1 order by metric',
      [account]
    );
    expect(series.map(({ metric }) => metric)).to.deep.equal([
      'depth',
      'requests',
      'target.duration',
      'target.samples',
      'target.up'
    ]);
    const [collection] = (await allCollections(bussola.db)).filter(({ accountId }) => accountId === account);
    expect(collection?.service).to.equal('targets');
    expect((collection?.newestAt ?? 0) > 0).to.equal(true);
  }).timeout(60_000);

  it('that fail are down with the reason and what to do, and up again once they answer', async () => {
    const account = await connect(listOf([{ url: `${url}/metrics`, name: 'flaky' }], { patienceSeconds: 1 }));
    await read(account, 'flaky', ({ isUp }) => isUp === true);
    const cases: [RequestListener, RegExp][] = [
      [(_request, response) => response.writeHead(404).end(), /answers 404.*Check the address/],
      [(_request, response) => response.writeHead(401).end(), /refuses the sign-in \(401\)/],
      [
        (_request, response) => response.writeHead(302, { location: 'http://169.254.169.254/x?token=1' }).end(),
        /leads elsewhere/
      ],
      [(request) => request.socket.destroy(), /connection was cut/],
      [(_request, response) => void response.writeHead(200).write('depth 1\n'), /no whole answer within 1 s/],
      [(_request, response) => response.writeHead(200).end('<p>nothing</p>\n'.repeat(3000)), /no OpenMetrics text/],
      [
        (_request, response) =>
          response.writeHead(200, { 'content-encoding': 'gzip' }).end(gzipSync(Buffer.alloc(40e6, 'a 1\n'))),
        /more than 16 MiB/
      ]
    ];
    for (const [failing, why] of cases) {
      answer = failing;
      const state = await read(account, 'flaky', ({ isUp, problem }) => isUp === false && why.test(problem ?? ''));
      expect(state.problem).not.to.contain('token=1');
    }
    answer = usual;
    const again = await read(account, 'flaky', ({ isUp }) => isUp === true);
    expect(again.problem).to.equal(null);
  }).timeout(120_000);

  it('are signed in at, by a token, a name and password, or a header of their own', async () => {
    const target = [{ url: `${url}/metrics`, name: 'guarded' }];
    const ways: [object, string, (one: (typeof requests)[number]) => unknown, string][] = [
      [{ by: 'bearer' }, 'harbour-token', ({ authorization }) => authorization, 'Bearer harbour-token'],
      [
        { by: 'basic', name: 'scout' },
        'tide:word',
        ({ authorization }) => authorization,
        `Basic ${Buffer.from('scout:tide:word').toString('base64')}`
      ],
      [{ by: 'header', header: 'X-Harbour-Key' }, 'abc', ({ header }) => header, 'abc']
    ];
    for (const [signIn, secret, sent, expected] of ways) {
      requests = [];
      const account = await connect(listOf(target, { signIn }), secret);
      await read(account, 'guarded', ({ isUp }) => isUp === true);
      expect(
        requests.some((one) => sent(one) === expected),
        expected
      ).to.equal(true);
      await removeAccount(house.bussola, account, { erase: false, by: 'test' });
    }
    expect((await refusalOf(connect(listOf(target, { signIn: { by: 'bearer' } }))))?.path).to.deep.equal(['secret']);
  }).timeout(60_000);

  it('by HTTPS show a client certificate, and are checked by an authority', async () => {
    const certificates = mkdtempSync(join(tmpdir(), 'bussola-certificates-'));
    const made = (name: string, subject: string): { cert: string; key: string } => {
      const [cert, key] = [join(certificates, `${name}.pem`), join(certificates, `${name}-key.pem`)];
      const flags = [
        '-x509',
        '-newkey',
        'rsa:2048',
        '-nodes',
        '-subj',
        subject,
        '-days',
        '2',
        '-addext',
        'subjectAltName=IP:127.0.0.1'
      ];
      execFileSync('openssl', ['req', ...flags, '-keyout', key, '-out', cert], { stdio: 'ignore' });
      return { cert: readFileSync(cert, 'utf8'), key: readFileSync(key, 'utf8') };
    };
    const ofServer = made('server', '/CN=quote');
    const ofClient = made('client', '/CN=bussola');
    const secure = createSecureServer(
      { ...ofServer, ca: ofClient.cert, requestCert: true, rejectUnauthorized: true },
      usual
    ).listen(0, '127.0.0.1');
    await once(secure, 'listening');
    try {
      const target = [{ url: `https://127.0.0.1:${(secure.address() as AddressInfo).port}/metrics`, name: 'secure' }];
      const unknown = await connect(listOf(target));
      const refused = await read(unknown, 'secure', ({ isUp }) => isUp === false);
      expect(refused.problem).to.contain('self-signed');
      const signIn = { by: 'certificate', certificate: ofClient.cert };
      const account = await connect(listOf(target, { signIn, authority: ofServer.cert }), ofClient.key);
      await read(account, 'secure', ({ isUp }) => isUp === true);
      const without = await connect(listOf(target, { authority: ofServer.cert }));
      expect((await read(without, 'secure', ({ isUp }) => isUp === false)).problem).to.match(/certificate|cut/);
    } finally {
      secure.closeAllConnections();
      secure.close();
      rmSync(certificates, { recursive: true });
    }
  }).timeout(60_000);

  it('are found by a list that another program offers, and by a file; what is gone from it has ended', async () => {
    let listed: unknown = {
      targets: [
        { url: `${url}/metrics`, name: 'one' },
        { url: `${url}/metrics`, name: 'two' }
      ]
    };
    answer = (request, response) =>
      request.url === '/list' ? response.end(JSON.stringify(listed)) : usual(request, response);
    const account = await connect(targetsSchema.parse({ find: { by: 'http', url: `${url}/list` } }));
    await read(account, 'two', ({ isUp }) => isUp === true);
    listed = { targets: [{ url: `${url}/metrics`, name: 'one' }] };
    let looks = 0;
    await until('the page to be gone', async () => {
      if (looks++ % 10 === 0) house.clock.pass(0.5);
      return (await targetStates(house.bussola.db, account)).length === 1;
    });
    const ended = await resourcesOfAccount(house.bussola.db, account);
    expect(ended.filter(({ endedAt }) => endedAt !== null).map(({ name }) => name)).to.deep.equal(['two']);
    listed = { targets: [{ address: 'x' }] };
    await until('what is wrong with the list', async () => {
      if (looks++ % 10 === 0) house.clock.pass(0.5);
      const { lastError } = (await accountById(house.bussola.db, account)) ?? {};
      return lastError?.message.includes('cannot be read (at targets.0') === true;
    });
    expect(await targetStates(house.bussola.db, account), 'the pages stay').to.have.length(1);
    answer = usual;
    writeFileSync(join(folder, 'fleet.json'), JSON.stringify({ targets: [{ url: `${url}/metrics`, name: 'filed' }] }));
    mkdirSync(join(folder, 'inner'));
    const filed = await connect(targetsSchema.parse({ find: { by: 'file', file: 'fleet.json' } }));
    await read(filed, 'filed', ({ isUp }) => isUp === true);
    for (const [file, why] of [
      ['none.json', 'no such file'],
      ['inner', 'it is no file'],
      ['..', 'it is no file']
    ] as const) {
      const definition = targetsSchema.parse({ find: { by: 'file', file } });
      const refusal = await refusalOf(tryPages(house.bussola, { definition, secret: '', accountId: null }, null));
      expect(refusal?.message, file).to.contain(why);
    }
  }).timeout(90_000);

  it('keep to the policy on addresses, whatever a list names', async () => {
    const account = await connect(
      listOf([
        { url: 'http://169.254.169.254/metrics', name: 'metadata' },
        { url: 'http://10.0.0.7/metrics', name: 'inside' }
      ])
    );
    for (const name of ['metadata', 'inside'])
      expect((await read(account, name, ({ isUp }) => isUp === false)).problem).to.contain('was not called');
  }).timeout(60_000);

  it('are tried before they are saved: what rules make of each series, and nothing is stored', async () => {
    const definition = listOf([{ url: `${url}/metrics`, name: 'tried' }], {
      rules: [
        { does: 'leave out', label: null, is: 'like', pattern: 'depth' },
        { does: 'rename label', label: 'path', to: 'route' }
      ]
    });
    const before = await house.bussola.db.rows('select id from accounts');
    const tried = await tryPages(house.bussola, { definition, secret: '', accountId: null }, null);
    expect([tried.count, tried.reading?.isUp, tried.reading?.series, tried.reading?.stored]).to.deep.equal([
      1,
      true,
      2,
      1
    ]);
    expect(tried.series).to.deep.equal([
      { from: 'requests path="/quote"', to: 'requests route="/quote"' },
      { from: 'depth secret="x"', to: null }
    ]);
    expect(await house.bussola.db.rows('select id from accounts')).to.deep.equal(before);
  });

  it('never have their secret sent where it was not entered for', async () => {
    const signIn = { by: 'bearer' };
    const account = await connect(listOf([{ url: `${url}/metrics`, name: 'a' }], { signIn }), 'harbour-token');
    const elsewhere = listOf([{ url: 'http://192.0.2.9/metrics', name: 'a' }], { signIn });
    const given = { definition: elsewhere, secret: '', accountId: account };
    expect((await refusalOf(tryPages(house.bussola, given, null)))?.message).to.contain(
      'has not been sent to http://192.0.2.9'
    );
    expect((await refusalOf(changePages(house.bussola, account, elsewhere, '')))?.path).to.deep.equal(['secret']);
    await changePages(house.bussola, account, elsewhere, 'another-token');
    const other = listOf([{ url: 'http://192.0.2.9/metrics', name: 'a' }], { signIn: { by: 'basic', name: 'scout' } });
    expect((await refusalOf(changePages(house.bussola, account, other, '')))?.path).to.deep.equal(['secret']);
  });

  it('beyond the series of their account are not taken, and that is counted', async () => {
    answer = (_request, response) =>
      response.end(
        `# TYPE many gauge\n${Array.from({ length: 50 }, (_, i) => `many{i="${i}"} 1`).join('\n')}\n# EOF\n`
      );
    const account = await connect(listOf([{ url: `${url}/metrics`, name: 'many' }], { mostSeries: 20 }));
    await read(account, 'many', ({ isUp }) => isUp === true);
    await until('the count', async () => {
      const rows = await house.bussola.db.rows<{ reason: string }>('select reason from dropped where account_id = $1', [
        account
      ]);
      return rows.some(({ reason }) => reason.includes('beyond the series'));
    });
    answer = usual;
    const [{ count } = { count: 0 }] = await house.bussola.db.rows<{ count: number }>(
      'select count(*)::integer as count from series where account_id = $1',
      [account]
    );
    expect(count).to.equal(20);
  }).timeout(60_000);
});
