import { expect } from 'chai';
import { createServer } from 'node:http';
import { once } from 'node:events';
import type { AddressInfo } from 'node:net';
import { pointOf } from '../../../../../stand-ins/levante/numbers';
import { metrics } from '../../../../../stand-ins/levante/world';
import { connect, machineNamed, seed, withHouse } from '../../../../../tests/support/bussola';
import { until } from '../../../../../tests/support/until';
import { duration, minute, range, type Instant } from '../../../core/time';
import { removeAccount } from './remove-account';
import { accountById, type Account } from '../../inventory/accounts';
import { discoverAccount } from './discover';
import type { Provider } from '../../providers/port/provider';
import { resourcesOfAccount } from '../../inventory/resources';
import { arrivedSince, collectionOf } from '../ledger/collections';
import { plainGuard } from '../../providers/port/guard';
import { outboundTo } from '../../providers/port/outbound';
import { pullService } from './pull';
import { seriesOfMetric } from '../../inventory/series';

describe('intake from Levante', () => {
  const house = withHouse();
  const account = async (id: number) => (await accountById(house.bussola.db, id)) as Account;
  const test = (access: { endpoint?: string; keyId?: string; secret?: string }) =>
    house.bussola.providers['levante']!.testAccess({
      endpoint: `${house.standIns.url}/levante`,
      keyId: 'LEVK-CORALLO-PROD',
      secret: 'demo-only-2f9c61d07be84a35',
      guard: plainGuard(),
      fetch: outboundTo(['127.0.0.1']),
      ...access
    });
  const failing = async (access: Parameters<typeof test>[0]) => (await test(access)).filter(({ passed }) => !passed);
  const world = { seed, start: house.clock?.now() ?? 0, stresses: [] };
  const processorUse = metrics.find(({ name }) => name === 'machine.processor.use')!;
  const machinePoints = async () =>
    (await arrivedSince(house.bussola.db, 0 as Instant)).find(({ service }) => service === 'machines')!.points;
  let prod: Account;

  afterEach(() => (house.standIns.levante.faultMode = 'usual'));

  describe('testing a credential', () => {
    it('passes each right on its own', async () => {
      const checks = await test({});
      expect(checks.map(({ name, passed }) => [name, passed])).to.deep.equal(
        [...['reach', 'clock', 'signature', 'list resources', 'read metrics', 'read lines', 'read bills', 'act']].map(
          (name) => [name, true]
        )
      );
      expect(checks[3]?.says).to.equal('May list resources: 27 found in corallo-prod.');
    });

    it('names a wrong secret, an unknown key and a missing right', async () => {
      const [wrong] = await failing({ secret: 'guess' });
      expect([wrong?.name, wrong?.says]).to.deep.equal([
        'signature',
        'The credential was refused. The signature does not match: the secret is not the one of this key id.'
      ]);
      const [unknown] = await failing({ keyId: 'LEVK-NOBODY' });
      expect(unknown?.says).to.contain('No such key id');
      const [lacking] = await failing({ keyId: 'LEVK-CORALLO-LISTONLY', secret: 'demo-only-c05d3a9912f74e08' });
      expect(lacking?.name).to.equal('read metrics');
      expect(lacking?.remedy).to.equal('At the provider, grant metrics.read to LEVK-CORALLO-LISTONLY.');
    });

    it('says why a host is not reached', async () => {
      const gone = createServer().listen(0, '127.0.0.1');
      await once(gone, 'listening');
      const { port } = gone.address() as AddressInfo;
      gone.close();
      await once(gone, 'close');
      const [closed] = await failing({ endpoint: `http://127.0.0.1:${port}/levante` });
      expect([closed?.name, closed?.says]).to.deep.equal([
        'reach',
        `127.0.0.1:${port} could not be reached: nothing listens there (connection refused).`
      ]);
      const [nameless] = await failing({ endpoint: 'http://levante.invalid' });
      expect(nameless?.says).to.match(
        /levante.invalid could not be reached: (there is no host of that name|its name could not be looked up)/
      );
    });

    it('says by how much clocks differ', async () => {
      house.standIns.levante.faultMode = 'clock-ahead';
      const [clock] = await failing({});
      expect([clock?.name, clock?.says.slice(0, 29)]).to.deep.equal(['clock', 'The clocks differ by 1 h: the']);
    });

    it('does not follow a redirect, which would take the signature elsewhere', async () => {
      const elsewhere = createServer((_request, response) =>
        response.writeHead(307, { location: `${house.standIns.url}/levante/v1/resources` }).end()
      );
      elsewhere.listen(0, '127.0.0.1');
      await once(elsewhere, 'listening');
      const [refused] = await failing({ endpoint: `http://127.0.0.1:${(elsewhere.address() as AddressInfo).port}` });
      expect(refused?.name).to.equal('reach');
      elsewhere.close();
    });
  });

  describe('a connected account', () => {
    before(async () => {
      prod = await connect(house, 'corallo-prod');
      await until(
        'the first pull of machines',
        async () => (await collectionOf(house.bussola.db, prod.id, 'machines'))?.lastSuccessAt
      );
    });

    it('brings every machine and exactly the numbers the provider has', async () => {
      const series = await seriesOfMetric(house.bussola.db, 'machine.processor.use');
      expect(series.map(({ labels }) => labels.resource)).to.include.members(['booking-web-1', 'tariff-worker-2']);
      const one = series.find(({ labels }) => labels.resource === 'gate-api-1')!;
      const now = house.clock.now();
      const from = (now - 30 * minute) as Instant;
      const frame = await house.bussola.store.samples.frame(
        [one.id],
        range(from, (now - 2 * minute) as Instant),
        minute,
        'avg'
      );
      const expected = Array.from({ length: 28 }, (_, i) =>
        pointOf(world, machineNamed('gate-api-1'), processorUse, '', from + i * minute)!
      );
      expect([...frame.columns[0]!.values]).to.deep.equal(expected.map(({ sum, count }) => sum / count));
    });

    it('pulled again brings nothing twice, and later only what is new', async () => {
      const before = await machinePoints();
      expect(await pullService(house.bussola, prod.id, 'machines')).to.equal(true);
      expect(await machinePoints()).to.equal(before);
      house.clock.pass(3);
      await until('the next pull', async () => (await account(prod.id)).lastPullAt === house.clock.now());
      // Fifty series of machines, and two guest-level ones of the two machines that report them.
      await until('three minutes of each series', async () => (await machinePoints()) === before + 3 * 54);
    });

    it('keeps its history newest first, down to where it was wanted from', async () => {
      await until('the history', async () => {
        const { historyLeftMs, discoveredAt } = await account(prod.id);
        return discoveredAt !== null && historyLeftMs === 0;
      });
    });

    it('notes what failed and loses nothing: the next success brings the span', async () => {
      const faults: Record<string, string> = {
        malformed: 'malformed',
        throttled: 'throttled',
        down: 'unavailable',
        'clock-ahead': 'clock'
      };
      for (const [faultMode, fault] of Object.entries(faults)) {
        house.standIns.levante.faultMode = faultMode as 'down';
        house.clock.pass(2);
        const error = await until(faultMode, async () => {
          const { lastError } = await account(prod.id);
          return lastError?.code === fault && lastError;
        });
        expect(error.remedy, faultMode).to.have.length.above(10);
      }
      house.standIns.levante.faultMode = 'usual';
      house.clock.pass(2);
      await until('recovery', async () => (await account(prod.id)).lastError === null);
      const [series] = await seriesOfMetric(house.bussola.db, 'machine.memory.use');
      const now = house.clock.now();
      const frame = await house.bussola.store.samples.frame(
        [series!.id],
        range((now - 15 * minute) as Instant, (now - 2 * minute) as Instant),
        minute,
        'count'
      );
      expect([...frame.columns[0]!.values]).to.deep.equal(Array.from({ length: 13 }, () => 12));
    });

    it('refuses a value that is not a number, counts it, keeps the others', async () => {
      house.standIns.levante.faultMode = 'not-a-number';
      house.clock.pass(2);
      const error = await until('the refusal', async () => {
        const { lastError } = await account(prod.id);
        return lastError?.code === 'refused-values' && lastError;
      });
      expect(error.message).to.match(/^\d+ values were refused because they are not numbers, first .*"n\/a"/);
      expect((await account(prod.id)).newestAt).to.be.at.least(house.clock.now() - 3 * minute);
    });

    it('never shows its secret', async () => {
      const [row] = await house.bussola.db.rows<{ sealed: Buffer }>(
        'select secret_sealed as sealed from accounts where id = $1',
        [prod.id]
      );
      expect(row?.sealed.includes('demo-only')).to.equal(false);
      expect(JSON.stringify(await account(prod.id))).not.to.contain('demo-only');
    });
  });

  describe('among other accounts and clocks', () => {
    it('a slow account does not delay another', async () => {
      const silent = createServer(() => undefined); // takes the request and never answers
      silent.listen(0, '127.0.0.1');
      await once(silent, 'listening');
      const slow = await connect(house, 'slow', {
        endpoint: `http://127.0.0.1:${(silent.address() as AddressInfo).port}`
      });
      house.clock.pass(2);
      await until('the other account', async () => (await account(prod.id)).lastPullAt === house.clock.now());
      expect((await account(slow.id)).lastPullAt).to.equal(null);
      silent.closeAllConnections();
      silent.close();
      const error = await until('the slow one to fail', async () => (await account(slow.id)).lastError);
      expect(error.code).to.equal('unreachable');
      await removeAccount(house.bussola, slow.id, { erase: true, by: 'Nerea' });
      expect(await accountById(house.bussola.db, slow.id)).to.equal(null);
    });

    it('a clock set back by a day neither stops pulling nor asks for the future', async () => {
      house.clock.pass(-24 * 60);
      await until('a pull after the jump', async () => (await account(prod.id)).lastPullAt === house.clock.now());
      house.clock.pass(24 * 60 + 2);
      await until('a pull after the jump back', async () => {
        const { lastPullAt, newestAt } = await account(prod.id);
        return (
          lastPullAt === house.clock.now() && newestAt !== null && newestAt >= house.clock.now() - duration(180_000)
        );
      });
    });
  });

  it('finds everything of an account also where a name, a tag or a metric cannot be stored as it is', async () => {
    const { bussola } = house;
    const levante = bussola.providers['levante'] as Provider;
    const odd: Provider = {
      ...levante,
      discover: async (access) => {
        const [first, ...others] = await levante.discover(access);
        return first ? [{ ...first, name: 'till\0', tags: { 'shift\0': 'night\ud800' } }, ...others] : [];
      },
      describeMetrics: async (access) =>
        (await levante.describeMetrics(access)).map((one) => ({ ...one, description: `${one.description}\0` }))
    };
    // Not one that the engine knows: what is found here is found by this call alone.
    const { id } = await connect(house, 'odd-names', { provider: 'odd', endpoint: `${house.standIns.url}/levante` });
    await discoverAccount({ ...bussola, providers: { ...bussola.providers, odd } }, id);
    expect((await account(id)).lastError).to.equal(null);
    const found = await resourcesOfAccount(bussola.db, id);
    expect(found).to.have.length(27);
    expect(found.find(({ name }) => name === 'till␀')?.tags).to.deep.equal({ 'shift␀': 'night�' });
  });
});
