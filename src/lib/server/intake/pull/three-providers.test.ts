import { expect } from 'chai';
import { latenessOf, valueOf } from '../../../../../stand-ins/ostro/numbers';
import { measures, things } from '../../../../../stand-ins/ostro/world';
import { families, linesOf } from '../../../../../stand-ins/maestro/numbers';
import { clusters } from '../../../../../stand-ins/maestro/world';
import { delayOf, pointOf } from '../../../../../stand-ins/levante/numbers';
import { metrics as levanteMetrics, resources as levanteResources } from '../../../../../stand-ins/levante/world';
import type { FaultMode } from '../../../../../stand-ins/world/fault-modes';
import { connect, seed, withHouse } from '../../../../../tests/support/bussola';
import { until } from '../../../../../tests/support/until';
import type { SummaryPoints } from '../../../core/series';
import { hour, minute, range, type Instant } from '../../../core/time';
import { accountById, type Account } from '../../inventory/accounts';
import { allCollections } from '../ledger/collections';
import { eventsIn } from '../events/events';
import { exemplarsOf } from '../../inventory/exemplars';
import { allGaps } from './gaps';
import { resourceMetrics } from '../../../core/reachability';
import { identitiesOf } from '../../inventory/series';

const credentials: Record<string, { keyId: string; secret: string }> = {
  levante: { keyId: 'LEVK-CORALLO-PROD', secret: 'demo-only-2f9c61d07be84a35' },
  ostro: { keyId: 'bussola-reader', secret: 'demo-only-ostro-71c0e2' },
  maestro: { keyId: 'bussola', secret: 'demo-only-maestro-3f81b6d2' }
};

describe('intake from three unlike providers', () => {
  const house = withHouse();
  const accounts: Record<string, Account> = {};
  const collections = async () =>
    (await allCollections(house.bussola.db)).filter(
      ({ accountId, service }) => !(accountId === accounts['ostro']!.id && service === 'gateways')
    );
  const settled = async () =>
    (await collections()).every(
      ({ lastPullAt, lastError }) => lastPullAt === house.clock.now() && lastError === null
    ) && (await allGaps(house.bussola.db)).every(({ service }) => service === 'gateways');
  const world = () => ({ seed, start: house.standIns.levante.start, stresses: [] });

  before(async function () {
    this.timeout(240_000);
    for (const [provider, credential] of Object.entries(credentials))
      accounts[provider] = await connect(house, provider, { provider, ...credential, historyMinutes: 180 });
    await until(
      'every collection and its history',
      async () => (await collections()).length > 12 && (await settled()),
      60_000
    );
  });

  /** The points of every series of an account in a range, by what the source calls it. */
  async function stored(account: Account, from: number, to: number): Promise<Map<string, SummaryPoints>> {
    // What Bussola measures of resources itself comes from no provider.
    const series = (await identitiesOf(house.bussola.db, account.id)).filter(
      ({ metric }) => !Object.values<string>(resourceMetrics).includes(metric)
    );
    const points = await house.bussola.store.samples.points(
      series.map(({ id }) => id),
      range(from as Instant, to as Instant)
    );
    return new Map(
      series.map(({ resource, metric, labels }, i) => [
        `${resource} ${metric} ${Object.values(labels).sort().join()}`,
        points[i]!
      ])
    );
  }

  /** What Levante's formula gives for each of its series, as [instant, sum] pairs. */
  function expectedOfLevante(from: number, to: number): Map<string, [number, number][]> {
    const now = house.clock.now();
    return new Map(
      levanteResources
        .filter(({ account }) => account === 'corallo-prod')
        .flatMap((resource) =>
          levanteMetrics
            .filter(
              ({ resourceType, recommended, level }) =>
                resourceType === resource.type && recommended && (level === 'host' || resource.guest)
            )
            .flatMap((metric) =>
              (metric.classes.length > 0 ? metric.classes : ['']).map((className): [string, [number, number][]] => {
                const points: [number, number][] = [];
                const end = Math.min(to, now - minute - delayOf(seed, resource, metric.name) + 1);
                for (let at = from; at < end; at += minute)
                  points.push([at, pointOf(world(), resource, metric, className, at)!.sum]);
                return [`${resource.id} ${metric.name} ${className}`, points];
              })
            )
        )
    );
  }

  async function expectEqual(from: number, to: number): Promise<number> {
    const found = await stored(accounts['levante']!, from, to);
    const expected = expectedOfLevante(from, to);
    expect([...found.keys()].sort()).to.deep.equal([...expected.keys()].sort());
    let points = 0;
    for (const [name, pairs] of expected) {
      const { at, sum } = found.get(name)!;
      expect(
        Array.from(at, (moment, i) => [moment, sum[i]]),
        name
      ).to.deep.equal(pairs);
      points += pairs.length;
    }
    return points;
  }

  it('every series of Levante has exactly the numbers its formula gives, history included', async () => {
    const now = house.clock.now();
    expect(await expectEqual(now - 3 * hour, now)).to.be.above(20_000);
  });

  it('every series of Ostro too, promptly reported ones and those that come hours late', async () => {
    const now = house.clock.now();
    const found = await stored(accounts['ostro']!, now - 3 * hour, now);
    let points = 0;
    for (const thing of things.filter(({ kind }) => kind !== 'gateway'))
      for (const measure of measures.filter(
        ({ kind, recommended, level }) => kind === thing.kind && recommended && (level === 'host' || thing.guest)
      ))
        for (const dimension of measure.dimension?.values ?? ['']) {
          const every = measure.everySeconds * 1000;
          const end = now - latenessOf(seed, thing, measure) + 1;
          const pairs: [number, number][] = [];
          for (let at = Math.ceil((now - 3 * hour) / every) * every; at < Math.min(now, end); at += every)
            pairs.push([at, valueOf(world(), thing, measure, dimension, at)!]);
          const series = [...found].filter(
            ([name]) => name.startsWith(`${thing.uri} `) && name.endsWith(` ${dimension}`)
          );
          const match = series.some(
            ([, { at, sum }]) =>
              JSON.stringify(Array.from(at, (moment, i) => [moment, sum[i]])) === JSON.stringify(pairs)
          );
          expect(match || pairs.length === 0, `${thing.uri} ${measure.measure} ${dimension}`).to.equal(true);
          points += pairs.length;
        }
    expect(points).to.be.above(10_000);
  });

  it('and every line of Maestro’s pages, as scraped and as kept', async () => {
    const now = house.clock.now();
    const found = await stored(accounts['maestro']!, now - 2 * hour, now + 1);
    let lines = 0;
    for (const cluster of clusters.filter(({ workloadMetrics }) => workloadMetrics))
      for (const family of families.filter(({ type }) => type !== 'info'))
        for (const { labels, value } of linesOf(world(), cluster, family, now)) {
          const { namespace, workload, node, gateway, ...others } = labels;
          const own = { ...others, ...(node && { node }), ...(workload && { workload }) };
          const resource = workload
            ? `${cluster.id}/workload/${namespace}/${workload}`
            : node
              ? `${cluster.id}/node/${node}`
              : gateway
                ? `${cluster.id}/gateway/${gateway}`
                : cluster.id;
          const points = found.get(`${resource} ${family.name} ${Object.values(own).sort().join()}`);
          expect(points, `${resource} ${family.name}`).not.to.equal(undefined);
          expect([points!.at.at(-1), points!.sum.at(-1)], `${resource} ${family.name}`).to.deep.equal([now, value]);
          expect(points!.at.length, `${resource} ${family.name}`).to.be.above(100);
          lines++;
        }
    expect(lines).to.be.above(80);
  });

  it('what a line points to, a request by the id of its trace, is kept with it', async () => {
    const now = house.clock.now();
    const cluster = clusters.find(({ workloadMetrics }) => workloadMetrics)!;
    const expected = families.flatMap((family) =>
      linesOf(world(), cluster, family, now).flatMap(({ exemplar, labels }) =>
        exemplar && labels['workload'] !== undefined
          ? [{ ...exemplar, name: `${cluster.id}/workload/${labels['namespace']}/${labels['workload']}` }]
          : []
      )
    );
    expect(expected).not.to.deep.equal([]);
    const resources = new Map(
      (
        await house.bussola.db.rows<{ id: number; name: string }>(
          'select id, provider_id as name from resources where account_id = $1',
          [accounts['maestro']!.id]
        )
      ).map(({ id, name }) => [name, id])
    );
    for (const { id, value, name } of expected) {
      const shown = await exemplarsOf(house.bussola.db, resources.get(name)!, 50);
      expect(
        shown.map((one) => [one.labels['trace_id'], one.value, one.at]),
        name
      ).to.deep.include([id, value, Math.floor(now / 15_000) * 15_000]);
    }
  });

  it('one right that is missing leaves one service empty, says which, and harms no other', async () => {
    const gateways = (await allCollections(house.bussola.db)).find(
      ({ accountId, service }) => accountId === accounts['ostro']!.id && service === 'gateways'
    );
    expect(gateways?.lastError?.message).to.equal(
      'The credential lacks a right: measurements.read on sub-shore/gateway. The client bussola-reader may not read measurements of gateways.'
    );
    expect(gateways?.lastError?.remedy).to.equal(
      'At the provider, grant measurements.read on sub-shore/gateway to bussola-reader.'
    );
  });

  it('events arrive once each: by asking, and by a stream that is taken up again', async () => {
    const now = house.clock.now();
    const kinds = await until('the events', async () => {
      const events = await eventsIn(house.bussola.db, now - 14 * 24 * hour, now);
      const found = new Set(events.map(({ kind }) => kind));
      return found.has('stalled') && found.has('restarted') && found.has('lost') && events;
    });
    const told = kinds.filter(({ kind }) => kind === 'stalled');
    expect(told.map(({ resource }) => resource)).to.deep.equal(['dorsale-standby']);
    expect(kinds.filter(({ kind }) => kind === 'lost').map(({ resource }) => resource)).to.deep.equal([
      'gateway-capra'
    ]);
  });

  it('with each trouble switched on in turn, nothing is missing afterwards and nothing is there twice', async () => {
    const faultModes: FaultMode[] = [
      'throttled',
      'refusing',
      'late',
      'slow',
      'dropping',
      'nonsense',
      'malformed',
      'down'
    ];
    const { standIns, clock } = house;
    const begun = clock.now();
    const all = [standIns.levante, standIns.ostro, standIns.maestro];
    for (const faultMode of faultModes) {
      for (const state of all) state.faultMode = faultMode;
      for (let i = 0; i < 2; i++) {
        clock.pass(2);
        await until(
          `${faultMode}: every pull`,
          async () => (await collections()).every(({ lastPullAt }) => lastPullAt === clock.now()),
          60_000
        );
      }
      for (const state of all) state.faultMode = 'usual';
      clock.pass(2);
      await until(`${faultMode}: recovery`, settled, 60_000);
    }
    clock.pass(130); // an outage of the whole longer than one pull looks back, and late points that have come by now
    await until('the gap', settled, 60_000);
    clock.pass(2);
    await until('the end', settled, 60_000);
    expect(await expectEqual(begun - hour, clock.now() - 3 * minute)).to.be.above(20_000);
  }).timeout(240_000);

  it('a resource that disappears has ended, and one that comes back goes on', async () => {
    const { db } = house.bussola;
    const hidden = levanteResources.find(({ name }) => name === 'seat-cache')!;
    const of = async () =>
      (
        await db.rows<{ ended: number | null }>('select ended_at as ended from resources where provider_id = $1', [
          hidden.id
        ])
      )[0]!.ended;
    const list = levanteResources as unknown[];
    const index = list.indexOf(hidden);
    list.splice(index, 1);
    house.clock.pass(11);
    await until('its end', async () => (await of()) !== null);
    list.splice(index, 0, hidden);
    house.clock.pass(11);
    await until('its return', async () => (await of()) === null);
    const account = (await accountById(db, accounts['levante']!.id))!;
    expect(account.lastError).to.equal(null);
  });
});
