import { expect } from 'chai';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { dictionary, fleet, grecaleKey, readingOf } from '../../../../../stand-ins/grecale/grecale';
import { serveStandIns, type StandIns } from '../../../../../stand-ins/serve';
import { TestClock } from '../../../../../tests/support/clock';
import { accessBy, allOf, connectorOf, shippedConnector } from '../../../../../tests/support/connectors';
import { refusalOf } from '../../../../../tests/support/refusal';
import { dayAt, dateOf, type DayNumber } from '../../../core/cost';
import { before as earlier, hour, minute, range, times } from '../../../core/time';
import type { Provider, ProviderAccess } from '../port/provider';
import { connectorPool, type ConnectorPool } from './connector-pool';
import { connectorProvider } from './connector-provider';

const seed = 7;

describe('a provider like none of the others, by a connector written from its description', () => {
  let folder: string;
  let clock: TestClock;
  let standIns: StandIns;
  let pool: ConnectorPool;
  let provider: Provider;
  let access: ProviderAccess;

  before(async function () {
    this.timeout(240_000);
    folder = mkdtempSync(join(tmpdir(), 'bussola-grecale-'));
    clock = new TestClock(join(folder, 'clock'));
    standIns = await serveStandIns({ port: 0, smtpPort: 0, seed, clockFile: clock.file });
    pool = connectorPool();
    provider = connectorProvider({ clock, pool, connector: await connectorOf(pool, shippedConnector('grecale')) });
    access = accessBy(`${standIns.url}/grecale`, grecaleKey.name, grecaleKey.secret);
  });
  after(async () => {
    await pool.close();
    await standIns.close();
    rmSync(folder, { recursive: true, force: true });
  });

  it('takes less than 150 lines', () => {
    expect(shippedConnector('grecale').trimEnd().split('\n').length).to.be.below(150);
  });

  it('is tried right by right, and refuses what is signed by another secret', async () => {
    const checks = await provider.testAccess(access);
    expect(checks.filter(({ passed }) => !passed)).to.deep.equal([]);
    expect(checks.map(({ name }) => name)).to.deep.equal([
      ...['reach', 'clock', 'signature', 'list resources', 'list metrics', 'read metrics'],
      ...['hear of events', 'read lines', 'read bills']
    ]);
    const refused = await provider.testAccess({ ...access, secret: 'another' });
    expect(refused.at(-1)).to.include({ name: 'signature', passed: false });
  });

  it('has its resources over pages by links, with types, tags and metrics as they are called here', async () => {
    const resources = await provider.discover(access);
    expect(resources.map(({ providerId }) => providerId)).to.deep.equal(Object.keys(fleet));
    expect(resources[1]).to.deep.equal({
      ...{ providerId: 'b-2', name: 'pallet-moves', type: 'queue', service: 'queues', region: 'sella' },
      ...{ tags: { team: 'data', stage: 'prod' }, guest: 'none', formerNames: [] }
    });
    const metrics = await provider.describeMetrics(access);
    expect(metrics.map(({ name, kind, unit }) => [name, kind, unit])).to.deep.equal([
      ['queue.backlog', 'gauge', '{message}'],
      ['queue.taken', 'cumulative', '{message}'],
      ['machine.processor.use', 'gauge', '%'],
      ['machine.memory', 'gauge', 'By']
    ]);
    expect(metrics.every(({ samplingMs, delayMs }) => samplingMs === 60_000 && delayMs === 120_000)).to.equal(true);
  });

  it('gives each value of each series, and what was not there yet once it is', async () => {
    const wanted = Object.entries(fleet).map(([providerId, part]) => ({
      providerId,
      metrics: part.class === 'broker' ? ['queue.backlog', 'queue.taken'] : ['machine.processor.use', 'machine.memory']
    }));
    const span = range(earlier(clock.now(), times(30, minute)), clock.now());
    const samples = async () =>
      (await allOf(provider.fetch(access, wanted, span))).flatMap(({ series, refused }) => {
        expect(refused).to.equal(0);
        return series.flatMap(({ resource, metric, points }) =>
          [...points.at].map((at, i) => [resource, metric, at, points.sum[i]])
        );
      });
    const codes = { 'queue.backlog': 'backlog', 'queue.taken': 'taken', 'machine.memory': 'memory' } as const;
    const expected = (until: number) =>
      wanted.flatMap(({ providerId, metrics }) =>
        metrics.flatMap((metric) => {
          const code = codes[metric as keyof typeof codes] ?? 'busy';
          return Array.from({ length: 30 }, (_, i) => span.from + i * 60_000)
            .filter((at) => at + 120_000 <= until)
            .map((at) => [providerId, metric, at, readingOf(seed, code, providerId, at)]);
        })
      );
    expect(dictionary).to.have.length(4);
    expect(await samples()).to.have.deep.members(expected(clock.now()));
    clock.pass(5);
    expect(await samples()).to.have.deep.members(expected(clock.now()));
    expect(expected(clock.now())).to.have.length(300);
  });

  it('waits as it asks to', async () => {
    standIns.grecale.slowDown = 1;
    const refusal = await refusalOf(provider.discover(access));
    expect(refusal).to.include({ code: 'throttled', retryAfter: 1000 });
    expect(await provider.discover(access)).to.have.length(5);
  });

  it('has events by sheets, each once, and only those behind one', async () => {
    const [feed] = await provider.events!(access);
    const follow = (cursor: string | null) => allOf(feed!.follow(cursor, new AbortController().signal));
    const all = await follow(null);
    expect(all).to.have.length(45);
    expect(new Set(all.map(({ id }) => id)).size).to.equal(45);
    expect(await follow(all[40]!.id)).to.deep.equal(all.slice(41));
  });

  it('has lines, each once, over pages', async () => {
    const [feed] = await provider.lines!(access);
    expect(feed).to.include({ name: 'b-1', service: 'queues', resource: 'b-1' });
    const from = earlier(clock.now(), times(3, hour));
    const pages = await allOf(feed!.read(from, clock.now(), new AbortController().signal));
    const lines = pages.flatMap(({ body }) =>
      Buffer.from(body)
        .toString()
        .trim()
        .split('\n')
        .map((line) => JSON.parse(line) as { time: string })
    );
    expect(pages.length).to.be.above(1);
    expect(new Set(lines.map(({ time }) => time)).size).to.equal(lines.length);
    expect(lines.length).to.equal((178 * 60) / 12);
    expect(pages.at(-1)?.until).to.equal(earlier(clock.now(), times(2, minute)));
  });

  it('has bills of days that are written', async () => {
    const today = dayAt(clock.now());
    const pages = await allOf(
      provider.bills!(access).read((today - 3) as DayNumber, (today + 1) as DayNumber, new AbortController().signal)
    );
    expect(pages.map((page) => dateOf(page.from))).to.deep.equal(
      [3, 2, 1].map((days) => dateOf((today - days) as DayNumber))
    );
    const [first] = pages;
    expect(first?.kind === 'entries' && first.entries.map(({ billed }) => billed)).to.deep.equal([
      1_205_000, 1_307_500, 1_410_000, 1_512_500, 1_615_000
    ]);
  });
});
