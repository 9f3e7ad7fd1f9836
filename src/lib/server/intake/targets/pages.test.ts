import { gzipSync } from 'node:zlib';
import type { RequestListener } from 'node:http';
import { expect } from 'chai';
import { withHouse } from '../../../../../tests/support/bussola';
import { withPages } from '../../../../../tests/support/target-pages';
import { until } from '../../../../../tests/support/until';
import { plainSignal } from '../../../core/signal';
import { resourcesOfAccount } from '../../inventory/resources';
import { answerQueries } from '../../query/query';
import { allCollections } from '../ledger/collections';

describe('OpenMetrics pages', () => {
  const house = withHouse({});
  const pages = withPages(house);

  it('are read at their interval: samples, whether they are up, how long they took, and how many lines they have', async () => {
    const account = await pages.connect(
      pages.listOf([{ url: `${pages.url}/metrics`, name: 'quote-1', labels: { site: 'perla' } }])
    );
    const first = await pages.read(account, 'quote-1', ({ isUp }) => isUp === true);
    expect([first.samples, first.leftOut, first.problem]).to.deep.equal([2, 0, null]);
    await pages.read(account, 'quote-1', ({ readAt }) => (readAt ?? 0) >= (first.readAt ?? 0) + 45_000);
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
    const titles = await bussola.db.rows<{ title: string }>(
      `select title from metrics where account_id = $1 and name = 'target.up'`,
      [account]
    );
    expect(titles).to.deep.equal([{ title: 'Page is up' }]);
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
  }).timeout(180_000);

  it('that fail are down with the reason and what to do, and up again once they answer', async () => {
    const account = await pages.connect(
      pages.listOf([{ url: `${pages.url}/metrics`, name: 'flaky' }], { patienceSeconds: 4 })
    );
    await pages.read(account, 'flaky', ({ isUp }) => isUp === true);
    const cases: [RequestListener, RegExp][] = [
      [(_request, response) => response.writeHead(404).end(), /answers 404.*Check the address/],
      [(_request, response) => response.writeHead(401).end(), /refuses the sign-in \(401\)/],
      [
        (_request, response) => response.writeHead(302, { location: 'http://169.254.169.254/x?token=1' }).end(),
        /leads elsewhere/
      ],
      [(request) => request.socket.destroy(), /connection was cut/],
      [(_request, response) => void response.writeHead(200).write('depth 1\n'), /no answer within 4 s/],
      [(_request, response) => response.writeHead(200).end('<p>nothing</p>\n'.repeat(3000)), /no OpenMetrics text/],
      [
        (_request, response) =>
          response.writeHead(200, { 'content-encoding': 'gzip' }).end(gzipSync(Buffer.alloc(20e6, 'a 1\n'))),
        /more than 16 MiB/
      ]
    ];
    for (const [failing, why] of cases) {
      pages.answer = failing;
      const state = await pages.read(
        account,
        'flaky',
        ({ isUp, problem }) => isUp === false && why.test(problem ?? '')
      );
      expect(state.problem).not.to.contain('token=1');
    }
    pages.answer = pages.usual;
    const again = await pages.read(account, 'flaky', ({ isUp }) => isUp === true);
    expect(again.problem).to.equal(null);
    // What is raised by it says why: each turn is an event of the page, once.
    const events = await house.bussola.db.rows<{ kind: string; text: string }>(
      `select kind, text from events where account_id = $1 order by at`,
      [account]
    );
    expect(events.map(({ kind }) => kind)).to.deep.equal(['page down', 'page up']);
    expect(events[0]?.text).to.match(/^flaky cannot be read: .*answers 404/);
  }).timeout(300_000);

  it('keep to the policy on addresses, whatever a list names', async () => {
    const account = await pages.connect(
      pages.listOf([
        { url: 'http://169.254.169.254/metrics', name: 'metadata' },
        { url: 'http://10.0.0.7/metrics', name: 'inside' }
      ])
    );
    for (const name of ['metadata', 'inside'])
      expect((await pages.read(account, name, ({ isUp }) => isUp === false)).problem).to.contain('was not called');
  }).timeout(180_000);

  it('beyond the series of their account are not taken, and that is counted', async () => {
    pages.answer = (_request, response) =>
      response.end(
        `# TYPE many gauge\n${Array.from({ length: 50 }, (_, i) => `many{i="${i}"} 1`).join('\n')}\n# EOF\n`
      );
    const account = await pages.connect(
      pages.listOf([{ url: `${pages.url}/metrics`, name: 'many' }], { mostSeries: 20 })
    );
    await pages.read(account, 'many', ({ isUp }) => isUp === true);
    await until('the count', async () => {
      const rows = await house.bussola.db.rows<{ reason: string }>('select reason from dropped where account_id = $1', [
        account
      ]);
      return rows.some(({ reason }) => reason.includes('beyond the series'));
    });
    pages.answer = pages.usual;
    const [{ count } = { count: 0 }] = await house.bussola.db.rows<{ count: number }>(
      'select count(*)::integer as count from series where account_id = $1',
      [account]
    );
    expect(count).to.equal(20);
  }).timeout(180_000);

  it('that answer slowly hold up none of another account', async () => {
    pages.answer = () => undefined;
    const many = Array.from({ length: 300 }, (_, i) => ({ url: `${pages.url}/metrics?${i}`, name: `silent-${i}` }));
    await pages.connect(pages.listOf(many, { patienceSeconds: 15 }));
    await until('many to be waited for', () => {
      house.clock.pass(0.05);
      return pages.requests.filter(({ url }) => url.includes('?')).length >= 60;
    });
    pages.answer = pages.usual;
    const other = await pages.connect(pages.listOf([{ url: `${pages.url}/metrics`, name: 'prompt' }]));
    await pages.read(other, 'prompt', ({ isUp }) => isUp === true);
  }).timeout(180_000);
});
