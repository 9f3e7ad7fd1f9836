import { expect } from 'chai';
import { connect, liveMinutes, withHouse } from '../../../../tests/support/bussola';
import { until } from '../../../../tests/support/until';
import { clusterMetrics, sumOf } from '../../core/clusters';
import { pointsOfLength } from '../../core/series';
import { after, minute } from '../../core/time';
import { collectionOf } from '../intake/ledger/collections';
import { storeSeries } from '../intake/ledger/store-series';
import { allResources, resourceNamed } from '../inventory/resources';
import { clusters, nodeMemory, tokens } from '../../../../stand-ins/maestro/world';
import { clusterAt, clustersIn, partOfCluster } from './cluster-page';
import { restartsOf } from './restarts';

const harbour = { account: 'fleet-edge', cluster: 'harbour-cluster' };

describe('a cluster, from the whole down to a container', () => {
  const house = withHouse();

  before(async function () {
    this.timeout(180_000);
    const { id } = await connect(house, 'fleet-edge', {
      provider: 'maestro',
      keyId: 'bussola',
      secret: tokens[0]!.token
    });
    await until('the first pull', async () => (await collectionOf(house.bussola.db, id, 'clusters'))?.lastSuccessAt);
    await liveMinutes(house, id, 3, 'clusters');
  });

  it('has every node, workload and container that runs there, with use against request and limit', async () => {
    const { bussola, clock } = house;
    const world = clusters.find(({ id }) => id === harbour.cluster)!;
    const view = await until('numbers', async () => {
      const found = await clusterAt(bussola, harbour, clock.now());
      return found.containers.length === 12 && found.containers.every(({ processor }) => processor.used !== null)
        ? found
        : null;
    });
    expect(view.nodes.map(({ name }) => name)).to.deep.equal(world.nodes);
    expect(view.workloads.map(({ name, namespace }) => `${namespace}/${name}`)).to.deep.equal([
      'booking/checkout',
      'public/notice',
      'booking/quote',
      'booking/seatmap'
    ]);
    for (const { memory, processor, node } of view.containers) {
      expect(memory).to.include({ requested: 256 * 1024 ** 2, limit: 512 * 1024 ** 2 });
      expect(memory.used).to.be.within(1, 600 * 1024 ** 2);
      expect(processor).to.include({ requested: 0.25, limit: 1 });
      expect(world.nodes).to.include(node);
    }
    // What is requested on the nodes is what all containers request; what a node has is its limit.
    expect(view.nodes.reduce((sum, { memory }) => sum + (memory.requested ?? 0), 0)).to.equal(
      sumOf(view.containers.map(({ memory }) => memory)).requested
    );
    for (const { memory, processor } of view.nodes) {
      expect(memory.limit).to.equal(nodeMemory);
      expect((memory.used ?? 0) / nodeMemory).to.be.within(0.4, 0.9);
      expect(processor.limit).to.equal(4);
    }
    const pulled = await resourceNamed(bussola.db, 'fleet-edge', 'seatmap');
    expect(view.workloads.find(({ name }) => name === 'seatmap')?.id).to.equal(pulled?.id);
  }).timeout(180_000);

  it('is entered by any of its resources, and by none that is no part of it', async () => {
    const { db } = house.bussola;
    const partOf = async (name: string) =>
      (await partOfCluster(db, (await resourceNamed(db, 'fleet-edge', name))?.id ?? 0))?.part ?? null;
    expect(await partOf('harbour-cluster')).to.deep.equal({ kind: 'cluster', cluster: 'harbour-cluster' });
    expect(await partOf('harbour-n2')).to.deep.equal({ kind: 'node', node: 'harbour-n2' });
    expect(await partOf('seatmap')).to.deep.equal({ kind: 'workload', workload: 'seatmap' });
    expect(await partOf('gateway-capra'), 'a gateway is beside it').to.equal(null);
    expect(await partOfCluster(db, 2_000_000)).to.equal(null);
    expect(clustersIn(await allResources(db)).map(({ name }) => name)).to.deep.equal([
      'harbour-cluster',
      'quay-cluster',
      'vessel-edge'
    ]);
  });

  it('says which containers were restarted and why, of a workload or of one', async () => {
    const { bussola, clock } = house;
    const all = await until('events', async () => {
      const found = await restartsOf(bussola.db, harbour, { workload: null, copies: null }, clock.now());
      return found.length > 5 ? found : null;
    });
    expect(all[0]?.text).to.match(/^seatmap-\d was restarted: it had used up its memory\.$/);
    expect(all.map(({ at }) => at)).to.deep.equal([...all.map(({ at }) => at)].sort((a, b) => b - a));
    const one = await restartsOf(bussola.db, harbour, { workload: 'seatmap', copies: ['seatmap-2'] }, clock.now());
    expect(new Set(one.map(({ copy }) => copy))).to.deep.equal(new Set(['seatmap-2']));
    expect(await restartsOf(bussola.db, harbour, { workload: 'quote', copies: null }, clock.now())).to.deep.equal([]);
    const earlier = await restartsOf(bussola.db, harbour, { workload: null, copies: null }, all[2]!.at);
    expect(earlier[0]?.at, 'as it was then').to.equal(all[2]!.at);
  }).timeout(90_000);

  it('has a container that was moved to another node once, where it is now', async () => {
    const { bussola, clock } = house;
    const [account] = (await allResources(bussola.db)).filter(({ name }) => name === 'quote');
    const labels = { copy: 'quote-1', workload: 'quote', node: 'harbour-n9' };
    const points = pointsOfLength(1);
    points.at[0] = clock.now();
    points.sum[0] = points.min[0] = points.max[0] = 7;
    points.count[0] = 1;
    const resource = account!.providerId;
    await storeSeries(
      bussola,
      account!.accountId,
      'clusters',
      [{ resource, metric: clusterMetrics.memory.used, labels, points }],
      clock.now()
    );
    const moved = await until('where it is now', async () => {
      const { containers } = await clusterAt(bussola, harbour, after(clock.now(), minute));
      const own = containers.filter(({ copy }) => copy === 'quote-1');
      return own[0]?.node === 'harbour-n9' ? own : null;
    });
    expect(moved).to.have.length(1);
    expect(moved[0]?.memory.used).to.equal(7);
  }).timeout(60_000);

  it('without workload metrics has its nodes, and nothing is made up', async () => {
    const view = await clusterAt(house.bussola, { ...harbour, cluster: 'vessel-edge' }, house.clock.now());
    expect(view.containers).to.deep.equal([]);
    expect(view.nodes.map(({ name, memory }) => [name, memory.requested])).to.deep.equal([['edge-n1', null]]);
    const nowhere = await clusterAt(house.bussola, { ...harbour, cluster: 'no such' }, house.clock.now());
    expect(nowhere).to.deep.equal({ id: null, nodes: [], workloads: [], containers: [] });
  });

  it('of which some metrics are not reported, such as requests, says what is known', async () => {
    const { db } = house.bussola;
    await db.rows(`delete from metrics where name like '%request%'`);
    const { containers } = await clusterAt(house.bussola, harbour, house.clock.now());
    expect(containers).to.have.length(12);
    for (const { memory, processor } of containers) {
      expect([memory.requested, processor.requested]).to.deep.equal([null, null]);
      expect(memory.limit).to.equal(512 * 1024 ** 2);
    }
  });
});
