import { expect } from 'chai';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { serveStandIns, type StandIns } from '../../../../../stand-ins/serve';
import type { FaultMode } from '../../../../../stand-ins/world/fault-modes';
import { TestClock } from '../../../../../tests/support/clock';
import { accessBy, allOf, connectorOf, shippedConnector } from '../../../../../tests/support/connectors';
import { refusalOf } from '../../../../../tests/support/refusal';
import type { Connector } from '../../../core/connector';
import { dayAt, type DayNumber } from '../../../core/cost';
import { before as earlier, hour, minute, range, times, type Instant, type Range } from '../../../core/time';
import { levanteProvider } from '../levante/levante';
import { ostroProvider } from '../ostro/ostro';
import type { Provider, ProviderAccess, WantedResource } from '../port/provider';
import { connectorPool, type ConnectorPool } from './connector-pool';
import { connectorProvider } from './connector-provider';

const credentials = {
  levante: { keyId: 'LEVK-CORALLO-PROD', secret: 'demo-only-2f9c61d07be84a35' },
  ostro: { keyId: 'bussola-reader', secret: 'demo-only-ostro-71c0e2' }
};
type Described = keyof typeof credentials;

/** What two providers gave, one beside the other. */
type Both<T> = readonly [coded: T, described: T];

describe('Levante and Ostro, described by connectors, beside their adapters in code', () => {
  let folder: string;
  let clock: TestClock;
  let standIns: StandIns;
  let pool: ConnectorPool;
  const both = {} as Record<Described, Both<Provider>>;
  const access = (name: Described): ProviderAccess =>
    accessBy(`${standIns.url}/${name}`, credentials[name].keyId, credentials[name].secret);

  before(async function () {
    this.timeout(240_000);
    folder = mkdtempSync(join(tmpdir(), 'bussola-described-'));
    clock = new TestClock(join(folder, 'clock'));
    standIns = await serveStandIns({ port: 0, smtpPort: 0, seed: 7, clockFile: clock.file });
    pool = connectorPool();
    const described = (name: Described): Promise<Connector> => connectorOf(pool, shippedConnector(name));
    both.levante = [levanteProvider(clock), connectorProvider({ clock, pool, connector: await described('levante') })];
    both.ostro = [ostroProvider(clock), connectorProvider({ clock, pool, connector: await described('ostro') })];
  });
  after(async () => {
    await pool.close();
    await standIns.close();
    rmSync(folder, { recursive: true, force: true });
  });

  /** What both give, each as a list. */
  async function given<T>(
    name: Described,
    ask: (provider: Provider, access: ProviderAccess) => AsyncIterable<T>
  ): Promise<Both<T[]>> {
    const all = (provider: Provider) => allOf(ask(provider, access(name)));
    return [await all(both[name][0]), await all(both[name][1])];
  }

  async function wantedOf(name: Described): Promise<WantedResource[]> {
    const [coded] = both[name];
    const resources = await coded.discover(access(name));
    const metrics = await coded.describeMetrics(access(name));
    // What the credential may not read is refused to both: see below.
    const readable = resources.filter(({ service }) => name !== 'ostro' || service !== 'gateways');
    return readable.map(({ providerId, type }) => ({
      providerId,
      metrics: metrics.filter(({ resourceType }) => resourceType === type).map((metric) => metric.name)
    }));
  }

  /** Samples of some pages, by series, in an order of their own: requests may be cut differently. */
  const pointsOf = async (name: Described, wanted: readonly WantedResource[], span: Range) =>
    (await given(name, (provider, access) => provider.fetch(access, wanted, span))).map((pages) => ({
      refused: pages.reduce((sum, page) => sum + page.refused, 0),
      series: pages
        .flatMap(({ series }) => series)
        .map(({ resource, metric, labels, points }) => ({
          name: JSON.stringify([resource, metric, labels]),
          points: Object.values(points).map((column) => [...(column as Float64Array)])
        }))
    }));

  const under = async <T>(name: Described, mode: FaultMode, work: () => Promise<T>): Promise<T> => {
    standIns[name].faultMode = mode;
    try {
      return await work();
    } finally {
      standIns[name].faultMode = 'usual';
    }
  };

  for (const name of ['levante', 'ostro'] as const)
    describe(name, () => {
      it('have the same resources and metrics', async () => {
        const [coded, described] = both[name];
        const resources = await coded.discover(access(name));
        expect(resources.length).to.be.above(20);
        expect(await described.discover(access(name))).to.deep.equal(resources);
        const metrics = await coded.describeMetrics(access(name));
        expect(metrics.length).to.be.above(20);
        expect(await described.describeMetrics(access(name))).to.deep.equal(metrics);
      });

      it('give the same samples of everything, over pages, and what is late once it is there', async function () {
        this.timeout(180_000);
        const wanted = await wantedOf(name);
        const span = range(earlier(clock.now(), times(3, hour)), clock.now());
        const [coded, described] = await pointsOf(name, wanted, span);
        expect(coded!.series.length).to.be.above(100);
        expect(described).to.deep.equal(coded);
        clock.pass(180);
        const [later, laterDescribed] = await pointsOf(name, wanted, span);
        expect(laterDescribed).to.deep.equal(later);
        const count = (series: NonNullable<typeof later>['series']) =>
          series.reduce((sum, { points }) => sum + points[0]!.length, 0);
        expect(count(later!.series)).to.be.above(count(coded!.series));
      });

      it('refuse the same values, and fail for the same reasons', async () => {
        const wanted = (await wantedOf(name)).slice(0, 3);
        const span = range(earlier(clock.now(), times(10, minute)), clock.now());
        const [coded, described] = await under(name, 'not-a-number', () => pointsOf(name, wanted, span));
        expect(coded!.refused).to.be.above(0);
        expect(described).to.deep.equal(coded);
        const modes = ['throttled', 'malformed', 'refusing', 'down', 'nonsense'] as const;
        for (const mode of [...modes, ...(name === 'levante' ? (['clock-ahead'] as const) : [])]) {
          const refusals = await under(name, mode, () =>
            Promise.all(
              both[name].map(async (provider) => {
                const first = async () => {
                  for await (const _page of provider.fetch(access(name), wanted, span)) return;
                };
                const refusal = await refusalOf(first());
                return [refusal?.code, (refusal as { retryAfter?: number } | null)?.retryAfter];
              })
            )
          );
          expect(refusals[1], mode).to.deep.equal(refusals[0]);
          expect(refusals[0]![0], mode).to.be.a('string');
        }
      });

      it('read the same lines of everything that writes some', async function () {
        this.timeout(300_000);
        const feeds = await Promise.all(
          both[name].map((provider) => provider.lines?.(access(name)) ?? Promise.resolve([]))
        );
        const heads = feeds.map((all) => all.map(({ name, service, resource }) => ({ name, service, resource })));
        expect(heads[1]).to.deep.equal(heads[0]);
        expect(heads[0]!.length).to.be.above(2);
        const from = earlier(clock.now(), times(40, minute));
        const to = earlier(clock.now(), times(10, minute));
        for (const index of [0, 1, heads[0]!.length - 1]) {
          const texts = await Promise.all(
            feeds.map(async (all) => {
              const pages: { body: string; until: Instant; isGzip: boolean }[] = [];
              for await (const { body, until, isGzip } of all[index]!.read(from, to, new AbortController().signal))
                pages.push({ body: Buffer.from(body).toString('base64'), until, isGzip });
              return pages;
            })
          );
          expect(texts[1]).to.deep.equal(texts[0]);
          expect(texts[0]!.length).to.be.above(0);
        }
      });

      it('have the same bills, to the millionth', async function () {
        this.timeout(180_000);
        const today = dayAt(clock.now());
        const from = (today - 12) as DayNumber;
        const [coded, described] = await given(name, (provider, access) =>
          provider.bills!(access).read(from, today, new AbortController().signal)
        );
        expect(described).to.deep.equal(coded);
        const entries = coded.flatMap((page) => (page.kind === 'entries' ? page.entries : []));
        expect(entries.length).to.be.above(50);
        expect(both[name].map((provider) => provider.bills!(access(name)).settlesAfter)[1]).to.equal(
          both[name][0].bills!(access(name)).settlesAfter
        );
      });

      it('estimate the same', () => {
        const [coded, described] = both[name];
        for (const key of [
          'reach',
          'historyPiece',
          'pricePerThousandRequests',
          'requestsPerFeed',
          'pricePerGigabyteOfLines'
        ] as const)
          expect(described[key], key).to.equal(coded[key]);
        for (const [resources, series] of [
          [1, 3],
          [40, 501],
          [0, 0]
        ] as const)
          expect(described.requestsPerPull(resources, series)).to.equal(coded.requestsPerPull(resources, series));
      });
    });

  it('the events of Ostro are the same, from the first and behind any', async () => {
    const events = async (cursor: string | null) =>
      given('ostro', async function* (provider, access) {
        for (const feed of await provider.events!(access)) yield* feed.follow(cursor, new AbortController().signal);
      });
    const [coded, described] = await events(null);
    expect(coded.length).to.be.above(3);
    expect(described).to.deep.equal(coded);
    const [rest, restDescribed] = await events(coded[1]!.id);
    expect(rest.length).to.be.within(1, coded.length - 1);
    expect(restDescribed).to.deep.equal(rest);
  });

  it('what the credential may not read is refused in the same words', async () => {
    const [coded] = both.ostro;
    const gateway = (await coded.discover(access('ostro'))).find(({ service }) => service === 'gateways');
    const wanted = [{ providerId: gateway!.providerId, metrics: ['gateway.requests'] }];
    const span = range(earlier(clock.now(), minute), clock.now());
    const refusals = await Promise.all(
      both.ostro.map((provider) =>
        refusalOf(provider.fetch(access('ostro'), wanted, span)[Symbol.asyncIterator]().next())
      )
    );
    expect(refusals[0]?.code).to.equal('permission');
    expect(refusals[1]?.message).to.equal(refusals[0]?.message);
  });

  it('a token that has run out is replaced', async () => {
    const [, described] = both.ostro;
    const first = await described.discover(access('ostro'));
    clock.pass(11);
    expect(await described.discover(access('ostro'))).to.deep.equal(first);
  });
});
