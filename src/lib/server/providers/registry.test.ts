import { expect } from 'chai';
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { withHouse } from '../../../../tests/support/bussola';
import { until } from '../../../../tests/support/until';
import { pointsOfLength } from '../../core/series';
import { hour, minute, range, type Clock, type Instant } from '../../core/time';
import { coverageOf } from '../intake/plan/coverage';
import { connectAccount, existingAccount, isAccepted, testCredential } from '../intake/pull/connect';
import { allResources } from '../inventory/resources';
import { identitiesOf } from '../inventory/series';
import type { Provider } from './port/provider';
import { registered } from './registry';

/** A provider as somebody else would write one: it knows nothing of Bussola but the port. */
const borea = (clock: Clock): Provider => ({
  name: 'Borea',
  guide: {
    rights: [{ right: 'measure', why: 'to read what it measures' }],
    steps: ['Ask Borea for a token.'],
    endpointLabel: 'Address of Borea',
    keyLabel: 'Token name',
    secretLabel: 'Token'
  },
  reach: hour,
  historyPiece: hour,
  requestsPerPull: (resources) => resources,
  pricePerThousandRequests: 2,
  testAccess: ({ secret }) => {
    const passed = secret === 'right';
    const checked = (name: string, ok: boolean) => ({ name, passed: ok, says: name, remedy: ok ? null : 'Ask again.' });
    return Promise.resolve([checked('reach', true), checked('clock', true), checked('credential', passed)]);
  },
  discover: () =>
    Promise.resolve([
      {
        providerId: 'b-1',
        name: 'quay-lamp',
        type: 'machine',
        service: 'machines',
        region: 'north',
        tags: {},
        guest: 'none',
        formerNames: []
      }
    ]),
  describeMetrics: () =>
    Promise.resolve([
      {
        name: 'machine.lamp.brightness',
        title: 'Brightness',
        description: 'How bright the lamp is.',
        unit: '1',
        kind: 'gauge',
        shape: 'single',
        resourceType: 'machine',
        service: 'machines',
        recommended: true,
        level: 'host',
        samplingMs: 60_000,
        delayMs: 0
      }
    ]),
  fetch: async function* (_access, wanted, { from, to }) {
    await Promise.resolve(); // as a call would take its time
    const first = Math.ceil(from / minute) * minute;
    const count = Math.max(0, Math.ceil((Math.min(to, clock.now()) - first) / minute));
    const points = Array.from({ length: count }, (_, i) => ({ at: first + i * minute, value: 3 }));
    yield {
      refused: 0,
      refusedExample: null,
      series: wanted.map(({ providerId }) => ({
        resource: providerId,
        metric: 'machine.lamp.brightness',
        labels: {},
        points: columns(points)
      }))
    };
  }
});

function columns(points: readonly { at: number; value: number }[]) {
  const made = pointsOfLength(points.length);
  for (const [index, { at, value }] of points.entries()) {
    made.at[index] = at;
    made.sum[index] = made.min[index] = made.max[index] = value;
    made.count[index] = 1;
  }
  return made;
}

describe('the registry of providers', () => {
  const house = withHouse({ ...registered, borea });

  it('takes a fourth provider by one line: it is connected, pulled and priced like the others', async () => {
    const { bussola } = house;
    const form = { name: 'borea-lamps', provider: 'borea', endpoint: 'http://borea.example.test', keyId: 'lamps' };
    expect(isAccepted(await testCredential(bussola, { ...form, secret: 'wrong' }))).to.equal(false);
    expect(isAccepted(await testCredential(bussola, { ...form, secret: 'right' }))).to.equal(true);
    const { id } = await connectAccount(bussola, { ...form, secret: 'right' }, 0, 'Kaja');
    house.clock.pass(2);
    await until('its resource', async () => (await allResources(bussola.db)).some(({ name }) => name === 'quay-lamp'));
    const newest = async () => {
      const series = await identitiesOf(bussola.db, id);
      const now = house.clock.now();
      const whole = range((now - hour) as Instant, now);
      const points = await bussola.store.samples.points(
        series.map((one) => one.id),
        whole
      );
      return points.reduce((sum, { at }) => sum + at.length, 0);
    };
    await until('its samples', async () => {
      house.clock.pass(1);
      return (await newest()) > 0;
    });
    const { services } = await coverageOf(bussola, await existingAccount(bussola, id));
    expect(services.map(({ service, price, collected }) => [service, price, collected])).to.deep.equal([
      ['machines', 2, 1]
    ]);
  }).timeout(180_000);

  it('refuses what is not registered, in words', async () => {
    const access = { provider: 'nobody', endpoint: 'http://nobody.example.test', keyId: 'a', secret: 'b' };
    const refused = await testCredential(house.bussola, access).catch((error: unknown) => error);
    expect(refused).to.include({ code: 'invalid', message: 'There is no provider "nobody".' });
  });
});

describe('the port of providers', () => {
  it('is closed: no code outside a provider’s folder and the registry names a provider', () => {
    const files = readdirSync('src', { recursive: true, withFileTypes: true })
      .filter((entry) => entry.isFile() && /\.(ts|svelte)$/.test(entry.name) && !entry.name.endsWith('.test.ts'))
      .map((entry) => join(entry.parentPath, entry.name))
      .filter((file) => !/server\/providers\/(levante|ostro|maestro)\/|providers\/registry\.ts$/.test(file));
    const names = new RegExp(`['"\`](${Object.keys(registered).join('|')})['"\`]`);
    expect(files.filter((file) => names.test(readFileSync(file, 'utf8')))).to.deep.equal([]);
  });
});
