import { execFileSync } from 'node:child_process';
import { once } from 'node:events';
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { createServer as createSecureServer } from 'node:https';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect } from 'chai';
import { withHouse } from '../../../../../tests/support/bussola';
import { refusalOf } from '../../../../../tests/support/refusal';
import { withPages, type PageRequest } from '../../../../../tests/support/target-pages';
import { until } from '../../../../../tests/support/until';
import { targetsSchema } from '../../../core/targets';
import { accountById } from '../../inventory/accounts';
import { resourcesOfAccount } from '../../inventory/resources';
import { removeAccount } from '../pull/remove-account';
import { changePages, tryPages } from './manage-pages';
import { targetStates } from './target-states';

describe('accounts of OpenMetrics pages', () => {
  const folder = mkdtempSync(join(tmpdir(), 'bussola-pages-'));
  const house = withHouse({}, { BUSSOLA_TARGETS: folder });
  const pages = withPages(house);
  after(() => rmSync(folder, { recursive: true }));

  it('are signed in at, by a token, a name and password, or a header of their own', async () => {
    const target = [{ url: `${pages.url}/metrics`, name: 'guarded' }];
    const ways: [object, string, (one: PageRequest) => unknown, string][] = [
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
      pages.requests = [];
      const account = await pages.connect(pages.listOf(target, { signIn }), secret);
      await pages.read(account, 'guarded', ({ isUp }) => isUp === true);
      expect(
        pages.requests.some((one) => sent(one) === expected),
        expected
      ).to.equal(true);
      await removeAccount(house.bussola, account, { erase: false, by: 'test' });
    }
    expect((await refusalOf(pages.connect(pages.listOf(target, { signIn: { by: 'bearer' } }))))?.path).to.deep.equal([
      'secret'
    ]);
  }).timeout(180_000);

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
      pages.usual
    ).listen(0, '127.0.0.1');
    await once(secure, 'listening');
    try {
      const target = [{ url: `https://127.0.0.1:${(secure.address() as AddressInfo).port}/metrics`, name: 'secure' }];
      const unknown = await pages.connect(pages.listOf(target));
      const refused = await pages.read(unknown, 'secure', ({ isUp }) => isUp === false);
      expect(refused.problem).to.contain('self-signed');
      const signIn = { by: 'certificate', certificate: ofClient.cert };
      const account = await pages.connect(pages.listOf(target, { signIn, authority: ofServer.cert }), ofClient.key);
      await pages.read(account, 'secure', ({ isUp }) => isUp === true);
      const without = await pages.connect(pages.listOf(target, { authority: ofServer.cert }));
      expect((await pages.read(without, 'secure', ({ isUp }) => isUp === false)).problem).to.match(/certificate|cut/);
    } finally {
      secure.closeAllConnections();
      secure.close();
      rmSync(certificates, { recursive: true });
    }
  }).timeout(180_000);

  it('are found by a list that another program offers, and by a file; what is gone from it has ended', async () => {
    let listed: unknown = {
      targets: [
        { url: `${pages.url}/metrics`, name: 'one' },
        { url: `${pages.url}/metrics`, name: 'two' }
      ]
    };
    pages.answer = (request, response) =>
      request.url === '/list' ? response.end(JSON.stringify(listed)) : pages.usual(request, response);
    const account = await pages.connect(targetsSchema.parse({ find: { by: 'http', url: `${pages.url}/list` } }));
    await pages.read(account, 'two', ({ isUp }) => isUp === true);
    listed = { targets: [{ url: `${pages.url}/metrics`, name: 'one' }] };
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
    pages.answer = pages.usual;
    writeFileSync(
      join(folder, 'fleet.json'),
      JSON.stringify({ targets: [{ url: `${pages.url}/metrics`, name: 'filed' }] })
    );
    mkdirSync(join(folder, 'inner'));
    const filed = await pages.connect(targetsSchema.parse({ find: { by: 'file', file: 'fleet.json' } }));
    await pages.read(filed, 'filed', ({ isUp }) => isUp === true);
    for (const [file, why] of [
      ['none.json', 'no such file'],
      ['inner', 'it is no file'],
      ['..', 'it is no file']
    ] as const) {
      const definition = targetsSchema.parse({ find: { by: 'file', file } });
      const refusal = await refusalOf(tryPages(house.bussola, { definition, secret: '', accountId: null }, null));
      expect(refusal?.message, file).to.contain(why);
    }
  }).timeout(240_000);

  it('are tried before they are saved: what rules make of each series, and nothing is stored', async () => {
    const definition = pages.listOf([{ url: `${pages.url}/metrics`, name: 'tried' }], {
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
    const account = await pages.connect(
      pages.listOf([{ url: `${pages.url}/metrics`, name: 'a' }], { signIn }),
      'harbour-token'
    );
    const elsewhere = pages.listOf([{ url: 'http://192.0.2.9/metrics', name: 'a' }], { signIn });
    const given = { definition: elsewhere, secret: '', accountId: account };
    expect((await refusalOf(tryPages(house.bussola, given, null)))?.message).to.contain(
      'has not been sent to http://192.0.2.9'
    );
    expect((await refusalOf(changePages(house.bussola, account, elsewhere, '')))?.path).to.deep.equal(['secret']);
    await changePages(house.bussola, account, elsewhere, 'another-token');
    const other = pages.listOf([{ url: 'http://192.0.2.9/metrics', name: 'a' }], {
      signIn: { by: 'basic', name: 'scout' }
    });
    expect((await refusalOf(changePages(house.bussola, account, other, '')))?.path).to.deep.equal(['secret']);
  });

  it('take no secret that cannot be sent, and no certificate that is none: what fails later would say it', async () => {
    const target = [{ url: `${pages.url}/metrics`, name: 'a' }];
    for (const secret of ['harbour\ntoken', ' token', 'tökén', 'a\u0000b'])
      for (const signIn of [{ by: 'bearer' }, { by: 'header', header: 'X-Harbour-Key' }]) {
        const refusal = await refusalOf(pages.connect(pages.listOf(target, { signIn }), secret));
        expect(refusal?.path, JSON.stringify(secret)).to.deep.equal(['secret']);
        expect(`${refusal?.message} ${refusal?.remedy}`).not.to.contain('harbour');
      }
    const certificate = '-----BEGIN CERTIFICATE-----\nbm9uZQ==\n-----END CERTIFICATE-----\n';
    const broken = pages.listOf(target, { signIn: { by: 'certificate', certificate } });
    expect((await refusalOf(pages.connect(broken, 'no key')))?.message).to.contain('is no certificate (PEM)');
    const distrusted = pages.listOf(target, { authority: certificate });
    expect((await refusalOf(pages.connect(distrusted)))?.path).to.deep.equal(['definition', 'authority']);
    const given = { definition: distrusted, secret: '', accountId: null };
    expect((await refusalOf(tryPages(house.bussola, given, null)))?.message).to.contain(
      'The authority is no certificate'
    );
  });
});
