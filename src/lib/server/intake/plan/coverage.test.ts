import { expect } from 'chai';
import { connect, withHouse } from '../../../../../tests/support/bussola';
import { until } from '../../../../../tests/support/until';
import { planSchema, usualPlan, type CollectionPlan } from '../../../core/intake';
import type { Account } from '../../inventory/accounts';
import { allCollections } from '../ledger/collections';
import { coverageOf } from './coverage';
import { enableGuests } from '../pull/guests';
import { savePlan } from './plans';
import { chooseResources, resourcesOfAccount } from '../../inventory/resources';
import { wantedOf } from '../pull/requested';

describe('coverage', () => {
  const house = withHouse();
  let account: Account;

  before(async function () {
    this.timeout(90_000);
    account = await connect(house, 'corallo-prod');
    await until('the first pull', async () =>
      (await allCollections(house.bussola.db)).find(
        ({ service, lastSuccessAt }) => service === 'machines' && lastSuccessAt !== null
      )
    );
  });

  const plan = (changed: Partial<CollectionPlan>) =>
    savePlan(
      house.bussola.db,
      account.id,
      'machines',
      planSchema.parse({ ...usualPlan, ...changed }),
      'test',
      house.clock.now()
    );
  const machines = async () => {
    const { services, resources } = await coverageOf(house.bussola, account);
    return {
      service: services.find(({ service }) => service === 'machines')!,
      by: new Map(resources.filter(({ service }) => service === 'machines').map((one) => [one.name, one]))
    };
  };
  const idOf = async (name: string) =>
    (await resourcesOfAccount(house.bussola.db, account.id)).find((one) => one.name === name)!.id;

  it('says of each resource whether it is collected, and why', async () => {
    await chooseResources(house.bussola.db, account.id, [await idOf('gate-api-1')], false);
    await plan({ leaveOut: { names: ['booking-*'], tags: [], namespaces: [] } });
    const { by, service } = await machines();
    expect([by.get('gate-api-1')?.state, by.get('gate-api-1')?.why]).to.deep.equal(['not collected', 'switched off']);
    expect([by.get('booking-web-1')?.state, by.get('booking-web-1')?.why]).to.deep.equal([
      'not collected',
      'left out by the plan'
    ]);
    expect([by.get('gate-api-2')?.state, by.get('gate-api-2')?.why]).to.deep.equal(['collected', 'by the plan']);
    expect(service.collected).to.equal([...by.values()].filter(({ state }) => state === 'collected').length);
    expect(service.found).to.equal(by.size);
  });

  it('is what is asked of the provider, resource by resource and metric by metric', async () => {
    for (const changed of [
      {},
      { collect: 'nothing' as const },
      { collect: 'chosen' as const },
      { metrics: { kind: 'list' as const, names: ['machine.processor.use'] } },
      { metrics: { kind: 'patterns' as const, patterns: ['machine.disk.*'] } },
      { leaveOut: { names: [], tags: [{ key: 'team', value: '*' }], namespaces: [] } }
    ]) {
      await plan(changed);
      const { by } = await machines();
      const { prompt, late } = await wantedOf(house.bussola.db, account, 'machines');
      const asked = new Map<string, number>();
      for (const { providerId, metrics } of [...prompt.resources, ...late.resources])
        asked.set(providerId, (asked.get(providerId) ?? 0) + metrics.length);
      for (const { providerId, state, metrics, name } of by.values())
        expect(asked.get(providerId) ?? 0, `${JSON.stringify(changed)} ${name}`).to.equal(
          state === 'collected' ? metrics : 0
        );
    }
  });

  it('estimates by the plan: a sixth as often takes a sixth of the requests', async () => {
    await plan({ every: 'PT5M' });
    const often = (await machines()).service.estimate;
    await plan({ every: 'PT30M' });
    const seldom = (await machines()).service.estimate;
    expect(seldom.requests).to.be.closeTo(often.requests / 6, 1);
    await plan({ collect: 'nothing' });
    const none = (await machines()).service.estimate;
    expect([none.samples, none.bytes]).to.deep.equal([0, 0]);
  });

  it('a person’s word on one resource goes before the plan, both ways', async () => {
    await plan({ collect: 'chosen' });
    await chooseResources(house.bussola.db, account.id, [await idOf('gate-api-2')], true);
    const { by } = await machines();
    expect([by.get('gate-api-2')?.state, by.get('gate-api-2')?.why]).to.deep.equal(['collected', 'switched on']);
    expect([...by.values()].filter(({ state }) => state === 'collected').map(({ name }) => name)).to.deep.equal([
      'gate-api-2'
    ]);
    await chooseResources(house.bussola.db, account.id, [await idOf('gate-api-2')], null);
    expect((await machines()).by.get('gate-api-2')?.why).to.equal('not chosen');
  });

  it('guest-level metrics are asked for once they are switched on at the provider', async () => {
    await plan({});
    const off = (await resourcesOfAccount(house.bussola.db, account.id)).find(
      ({ service, guest }) => service === 'machines' && guest === 'off'
    )!;
    const metricsOf = async () => {
      const { prompt, late } = await wantedOf(house.bussola.db, account, 'machines');
      return [...prompt.resources, ...late.resources]
        .filter(({ providerId }) => providerId === off.providerId)
        .flatMap(({ metrics }) => metrics);
    };
    const before = await metricsOf();
    const result = await enableGuests(house.bussola, account, ({ id }) => id === off.id);
    expect(result).to.deep.equal({ switched: 1, problem: null });
    expect((await metricsOf()).length).to.be.above(before.length);
    expect(await enableGuests(house.bussola, account, ({ id }) => id === off.id)).to.deep.equal({
      switched: 0,
      problem: null
    });
  });
});
